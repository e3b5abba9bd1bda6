import { expect, test } from 'vitest'

import { STAGES, stageOf } from './stages'

test('a field is mended on one stage', () => {
  expect(stageOf('load.inertia_kgm2')).toBe('start')
  expect(stageOf('starter.star_time_s')).toBe('start')
  expect(stageOf('starter.type')).toBe('method')
  expect(stageOf('control.scheme')).toBe('circuit')
  expect(stageOf('control.voltage_v')).toBe('plate')
  expect(stageOf('overrides.0.dial_a')).toBe('devices')
  expect(stageOf('motor.power_factor')).toBe('plate')
  const fields = STAGES.flatMap((s): readonly string[] => [...s.parts, ...s.fields])
  expect(new Set(fields).size).toBe(fields.length)
})
