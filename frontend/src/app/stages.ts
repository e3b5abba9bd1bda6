import type { FieldPath } from '@/stores/document'

/** The stages of a starter in their order, each listed once: name in the address, title, and the fields that are mended there. */
export const STAGES = [
  { name: 'plate', title: 'Plate', parts: [], fields: [] },
  {
    name: 'starter',
    title: 'Starter',
    parts: ['starter'],
    fields: [
      'motor.low_speed_current_a',
      'motor.low_speed_rpm',
      'motor.rotor_voltage_v',
      'motor.rotor_current_a',
    ],
  },
  { name: 'devices', title: 'Devices', parts: ['protection', 'overrides'], fields: [] },
  {
    name: 'start',
    title: 'Start',
    parts: [],
    fields: [
      'load.torque_pct',
      'load.inertia_kgm2',
      'load.measured_run_up_time_s',
      'load.torque_points',
      'load.breakaway_pct',
      'motor.pull_up_torque_ratio',
      'motor.breakdown_torque_ratio',
      'starter.star_time_s',
      'starter.dwell_s',
      'starter.first_stage_time_s',
      'starter.second_stage_time_s',
      'starter.third_stage_time_s',
    ],
  },
  { name: 'curves', title: 'Curves', parts: [], fields: [] },
  { name: 'phase', title: 'Lost phase', parts: ['monitor'], fields: [] },
  { name: 'circuit', title: 'Circuit', parts: [], fields: [] },
  { name: 'build', title: 'Build', parts: [], fields: [] },
  { name: 'prove', title: 'Prove', parts: [], fields: [] },
  { name: 'sheet', title: 'Papers', parts: [], fields: [] },
] as const satisfies { name: string; title: string; parts: string[]; fields: FieldPath[] }[]

export type StageName = (typeof STAGES)[number]['name']

/** The stage on which a field is mended: its own, else that of its part of the document, else the plate. */
export function stageOf(field: string): StageName {
  const part = field.split('.')[0] ?? ''
  const holds = (list: readonly string[], name: string) => list.includes(name)
  const stage =
    STAGES.find((s) => holds(s.fields, field)) ?? STAGES.find((s) => holds(s.parts, part))
  return stage?.name ?? 'plate'
}
