import { expect, test } from 'vitest'

import type { Draft } from './document'
import { chosen, merge } from './merge'

const base = {
  tag: 'A',
  motor: { rated_power_kw: 7.5, leads: 6 },
  supply: { line_voltage_v: 400 },
} as Draft

test('what only one side changed is joined, a field taken out too', () => {
  const mine = { ...base, motor: { rated_power_kw: 11, leads: 6 } } as Draft
  const theirs = {
    tag: 'B',
    motor: { rated_power_kw: 7.5 },
    supply: { line_voltage_v: 400 },
  } as Draft
  const merged = merge(base, mine, theirs)
  expect(merged.clashes).toEqual([])
  expect(merged.joined).toEqual(['motor.rated_power_kw'])
  expect(merged.document).toEqual({
    tag: 'B',
    motor: { rated_power_kw: 11 },
    supply: { line_voltage_v: 400 },
  })
})

test('the same change on both sides is no clash, another one is, and each is chosen for itself', () => {
  const mine = { ...base, tag: 'MINE', motor: { rated_power_kw: 11, leads: 3 } } as Draft
  const theirs = { ...base, tag: 'THEIRS', motor: { rated_power_kw: 11, leads: 12 } } as Draft
  const { document, clashes } = merge(base, mine, theirs)
  expect(clashes.map((c) => [c.path, c.before, c.mine, c.theirs])).toEqual([
    ['tag', 'A', 'MINE', 'THEIRS'],
    ['motor.leads', 6, 3, 12],
  ])
  expect(document.tag).toBe('THEIRS')
  const settled = chosen(document, clashes, new Set(['tag']))
  expect(settled).toEqual({ ...base, tag: 'MINE', motor: { rated_power_kw: 11, leads: 12 } })
})

test('lists are one field, and a draft without its base clashes wherever the two differ', () => {
  const mine = { tag: 'A', overrides: [{ role: 'x', reason: 'mine' }] } as unknown as Draft
  const theirs = { tag: 'A', overrides: [{ role: 'y', reason: 'theirs' }] } as unknown as Draft
  expect(merge({} as Draft, mine, theirs).clashes.map((c) => c.path)).toEqual(['overrides'])
})
