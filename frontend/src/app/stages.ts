import type { FieldPath } from '@/stores/document'

/** The stages of a starter in their order, each listed once: name in the address, title, group, and the fields that are mended there. */
export const STAGES = [
  { name: 'plate', title: 'Plate', group: 'size', parts: [], fields: [] },
  {
    name: 'method',
    title: 'Method',
    group: 'size',
    parts: ['starter'],
    fields: [
      'motor.low_speed_power_kw',
      'motor.low_speed_current_a',
      'motor.low_speed_rpm',
      'motor.speed_winding',
      'motor.rotor_voltage_v',
      'motor.rotor_current_a',
      'supply.maximum_dip_pct',
      'supply.maximum_start_current_a',
    ],
  },
  {
    name: 'devices',
    title: 'Devices',
    group: 'size',
    parts: ['protection', 'overrides'],
    fields: [],
  },
  {
    name: 'start',
    title: 'Start',
    group: 'size',
    parts: [],
    fields: [
      'load.start_time_s',
      'load.machine',
      'load.shape',
      'load.torque_pct',
      'load.inertia_kgm2',
      'load.speed_rpm',
      'load.measured_run_up_time_s',
      'load.torque_points',
      'load.breakaway_pct',
      'motor.locked_rotor_torque_ratio',
      'motor.pull_up_torque_ratio',
      'motor.breakdown_torque_ratio',
      'motor.rotor_inertia_kgm2',
      'starter.star_time_s',
      'starter.dwell_s',
      'starter.first_stage_time_s',
      'starter.second_stage_time_s',
      'starter.third_stage_time_s',
    ],
  },
  {
    name: 'curves',
    title: 'Curves',
    group: 'size',
    parts: [],
    fields: ['protection.measured_curves'],
  },
  {
    name: 'phase-loss',
    title: 'Phase loss',
    group: 'size',
    parts: ['monitor'],
    fields: ['control.phase_monitor'],
  },
  {
    name: 'circuit',
    title: 'Circuit',
    group: 'circuit',
    parts: ['control', 'circuit_edits', 'own_rules'],
    fields: ['starter.star_sequence'],
  },
  { name: 'build', title: 'Build', group: 'build', parts: [], fields: [] },
  { name: 'test', title: 'Test', group: 'test', parts: [], fields: [] },
  { name: 'documents', title: 'Documents', group: 'documents', parts: [], fields: [] },
] as const satisfies {
  name: string
  title: string
  group: string
  parts: string[]
  fields: FieldPath[]
}[]

export type StageName = (typeof STAGES)[number]['name']
export type GroupName = (typeof STAGES)[number]['group']

/** The groups in the order of the trade. */
export const GROUPS: { name: GroupName; title: string }[] = [
  { name: 'size', title: 'Size' },
  { name: 'circuit', title: 'Circuit' },
  { name: 'build', title: 'Build' },
  { name: 'test', title: 'Test' },
  { name: 'documents', title: 'Documents' },
]

/** Names that stages had in addresses before, with those of today: a bookmark still opens. */
export const RENAMED: Record<string, StageName> = {
  starter: 'method',
  phase: 'phase-loss',
  prove: 'test',
  sheet: 'documents',
}

/** Fields of the control supply, which stand with the plate; the rest of the control part are options of the circuit. */
const CONTROL_SUPPLY: FieldPath[] = [
  'control.voltage_v',
  'control.coil_voltage_v',
  'control.measured_voltage_v',
  'control.kind',
  'control.source',
  'control.tap',
  'control.earthed',
  'control.earthed_point',
  'control.restart_harmless',
  'control.line_length_m',
  'control.line_section_mm2',
]

export const groupOf = (stage: StageName): GroupName =>
  STAGES.find((s) => s.name === stage)?.group ?? 'size'

/** The stage on which a field is mended: its own, else that of its part of the document, else the plate. */
export function stageOf(field: string): StageName {
  const part = field.split('.')[0] ?? ''
  const holds = (list: readonly string[], name: string) => list.includes(name)
  if (holds(CONTROL_SUPPLY, field)) return 'plate'
  const stage =
    STAGES.find((s) => holds(s.fields, field)) ?? STAGES.find((s) => holds(s.parts, part))
  return stage?.name ?? 'plate'
}
