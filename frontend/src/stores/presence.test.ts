import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it } from 'vitest'

import { useMe } from '@/stores/me'
import { changeWords } from '@/stores/presence'

const LABELS: Record<string, string> = {
  'motor.rated_power_kw': 'Rated power',
  'supply.line_voltage_v': 'Line voltage',
}
const labelOf = (path: string) => LABELS[path] ?? path

describe('what others changed', () => {
  it('is said as the fields are called', () => {
    expect(changeWords('motor.rated_power_kw', labelOf)).toBe('rated power')
    expect(changeWords('load.start_time_s, supply.line_voltage_v', labelOf)).toBe(
      'start time s, line voltage',
    )
    expect(changeWords('a.b, a.c, a.d, a.e', labelOf)).toBe('b, c, d and more')
  })
})

describe('who may what', () => {
  beforeEach(() => setActivePinia(createPinia()))
  it('is everything for one person alone', () => {
    expect(useMe().may('administers')).toBe(true)
    expect(useMe().ready).toBe(true)
  })
  it('is up to the role in a workshop, and nothing before signing in', () => {
    const me = useMe()
    me.take({ workshop: true, name: '', role: null, encrypted: true })
    expect([me.ready, me.may('reads')]).toEqual([false, false])
    me.take({ workshop: true, name: 'T. Brannoc', role: 'works', encrypted: true })
    expect([me.ready, me.may('works'), me.may('designs')]).toEqual([true, true, false])
  })
})
