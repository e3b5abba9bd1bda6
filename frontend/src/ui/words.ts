import type { StarterDocument } from '@/api/client'

/** Names of choices, as a fitter says them. Only words: what they mean is the core's business. */

export type Choice = { value: string | number | boolean; label: string }

const choices = (pairs: Record<string, string>): Choice[] =>
  Object.entries(pairs).map(([value, label]) => ({ value, label }))

export const PRACTICES = choices({ iec: 'IEC', nec: 'North American' })
export const IEC_DEVICES = choices({
  motor_breaker: 'Motor breaker',
  magnetic_breaker: 'Magnetic breaker and relay',
  miniature_breaker_b: 'Miniature breaker B and relay',
  miniature_breaker_c: 'Miniature breaker C and relay',
  miniature_breaker_d: 'Miniature breaker D and relay',
  moulded_case_breaker: 'Moulded-case breaker and relay',
  fuse_gg: 'Fuses gG and relay',
  fuse_am: 'Fuses aM and relay',
})
export const NEC_DEVICES = choices({
  inverse_time_breaker: 'Inverse-time breaker',
  instantaneous_trip_breaker: 'Instantaneous-trip breaker',
  time_delay_fuse: 'Time-delay fuses (class J, CC, RK5)',
  non_time_delay_fuse: 'Non-time-delay fuses',
})
export const SCHOOLS = choices({
  nameplate: 'Plate current rule',
  percentage: 'Percentage (430.32)',
})
export const MARKINGS = choices({ motor_amperes: 'Motor amperes', trip_amperes: 'Trip amperes' })
export const COORDINATIONS = choices({
  type_1: 'Type 1: no danger, may need repair',
  type_2: 'Type 2: ready for service again',
})
export const UPSTREAM_DEVICES = choices({
  fuse_gg: 'Fuses gG',
  fuse_am: 'Fuses aM',
  miniature_breaker_b: 'Miniature breaker B',
  miniature_breaker_c: 'Miniature breaker C',
  miniature_breaker_d: 'Miniature breaker D',
  moulded_case_breaker: 'Moulded-case breaker',
})
export const OVERLOADS = choices({ relay: 'Relay or motor breaker', none: 'None' })
export const SOURCES = choices({
  transformer: 'Control transformer',
  common: 'The motor’s own supply',
  power_unit: 'DC power unit',
  separate: 'Separate supply from outside',
})
export const CONTROL_TAPS = choices({
  behind_main: 'Load side of the main breaker',
  before_main: 'Line side of the main breaker',
})
export const CONDUCTORS = choices({
  three_phase_4w: 'Three lines and neutral',
  three_phase_3w: 'Three lines',
  single_phase: 'Line and neutral',
  split_phase: 'Two lines and neutral (split phase)',
  two_lines: 'Two lines of a three-phase network',
})
export const SOURCE_WORDS: Record<string, string> = {
  line_neutral: 'Line and neutral',
  two_lines: 'Two lines',
  transformer: 'Control transformer',
  power_unit: 'DC power unit',
  separate: 'Separate supply from outside',
  unknown: 'not known',
}
export const STAR_DELTA_TIMERS = [
  { value: true, label: 'Star-delta relay (17-28, 17-18)' },
  { value: false, label: 'On-delay relay (15-16, 15-18)' },
]
export const EARTHED = [
  { value: true, label: 'Earthed' },
  { value: false, label: 'Unearthed' },
]
export const EARTHED_POINTS = choices({
  end: 'One end',
  centre: 'Middle, both live',
})
export const OVERLOAD_CONTACTS = choices({
  line_side: 'First in the chain, line side',
  before_coil: 'Ahead of the coil, line side',
  return_side: 'After the coil, return side',
})
export const MONITORS = choices({ none: 'None', three_wire: 'Three-wire', four_wire: 'Four-wire' })
export const LEADS = [3, 6, 9, 12].map((n) => ({ value: n, label: `${n} leads` }))
export const LEAD_CONNECTIONS = choices({ star: 'Star', delta: 'Delta' })
export const DUTY_TYPES = choices(
  Object.fromEntries([1, 2, 3, 4, 5, 6, 7, 8].map((n) => [`s${n}`, `S${n}`])),
)
export const YES_NO = [
  { value: true, label: 'Yes' },
  { value: false, label: 'No' },
]
export const PRESET_PARTS = choices({
  starter: 'Starting method',
  protection: 'Protection',
  control: 'Control',
  monitor: 'Settings of the phase monitor',
  supply: 'Supply',
  load: 'Load and use',
  surroundings: 'Surroundings',
  assumptions: 'Assumptions',
  practice: 'Practice',
}) as { value: keyof StarterDocument; label: string }[]
export const DELTA_LINKS = choices({ favourable: 'Favourable', common: 'Common' })
export const RESETS = choices({ manual: 'By hand', automatic: 'Automatic' })
export const DUTIES = choices({
  ac3: 'AC-3, plain starting',
  ac4: 'AC-4, inching, plugging',
})
export const SCHEMES = choices({
  three_wire: 'Push-buttons',
  two_wire: 'Maintained contact',
  hand_off_auto: 'Hand / off / auto',
})
export const CURRENT_KINDS = choices({ ac: 'AC', dc: 'DC' })
export const SYSTEMS = choices({ tn: 'TN', tn_c: 'TN-C', tt: 'TT', it: 'IT' })
export const SYSTEMS_NORTH_AMERICAN = choices({
  earthed_star: 'Grounded wye',
  corner: 'Corner-grounded delta',
  high_leg: 'High-leg delta',
  ungrounded: 'Ungrounded',
})
export const CLASSES = choices({ IE1: 'IE1', IE2: 'IE2', IE3: 'IE3', IE4: 'IE4', IE5: 'IE5' })
export const CODE_LETTERS = choices(
  Object.fromEntries([...'ABCDEFGHJKLMNPRSTUV'].map((letter) => [letter, letter])),
)
export const DESIGN_LETTERS = choices({ A: 'A', B: 'B', C: 'C', D: 'D' })
export const POSITIONS = choices({
  before_relay: 'Line side of the relay',
  after_relay: 'Load side of the relay',
})
export const OVERLOAD_POSITIONS = choices({
  winding: 'After the line contactor',
  line: 'In the supply line',
  delta_branch: 'In the delta branch',
})
export const TAPS = [0.5, 0.65, 0.8].map((tap) => ({ value: tap, label: `${100 * tap} %` }))
export const SPEED_WINDINGS = choices({ separate: 'Two windings', tapped: 'One tapped winding' })
export const PHASES = [
  { value: 3, label: 'Three' },
  { value: 1, label: 'One' },
]
export const SINGLE_PHASE_KINDS = choices({
  split_phase: 'Split phase',
  capacitor_start: 'Start capacitor',
  capacitor_run: 'Run capacitor',
  capacitor_start_run: 'Start and run capacitor',
  shaded_pole: 'Shaded pole',
})
export const INSULATIONS = choices({ pvc: 'PVC, 70 °C', xlpe: 'XLPE, 90 °C' })
export const LAID = choices({
  b1: 'B1, wires in conduit',
  b2: 'B2, cable in conduit',
  c: 'C, on the wall',
  e: 'E, on a tray, free air',
})
export const LOAD_SHAPES = choices({
  constant: 'Constant',
  linear: 'Linear with speed',
  square: 'Square (fan, pump)',
  constant_power: 'Constant power',
})
export const TRIP_CLASSES = choices(
  Object.fromEntries(
    ['5', '5E', '10A', '10', '10E', '20', '20E', '30', '30E', '40E'].map((c) => [c, `class ${c}`]),
  ),
)

export const SEVERITY: Record<string, { mark: string; word: string }> = {
  stop: { mark: '■', word: 'Stop' },
  attention: { mark: '▲', word: 'Warning' },
  info: { mark: '○', word: 'Info' },
  fine: { mark: '✓', word: 'OK' },
}

export const FITTED = [
  { value: true, label: 'Fitted' },
  { value: false, label: 'None' },
]
export const FIELD_CONTACTS = choices({
  float_fill: 'Float, fills (closed while low)',
  float_drain: 'Float, drains (closed while high)',
  pressure: 'Pressure switch',
  thermostat: 'Thermostat',
  limit: 'Limit switch',
})
export const JOGS = choices({ selector: 'By selector', relay: 'Button with run relay' })
export const MONITOR_PLACES = choices({
  supply_side: 'Line side of the contactor',
  motor_side: 'Load side of the contactor',
})
export const HOLDS = choices({ auxiliary: 'Auxiliary contact', power_pole: 'From a power pole' })
export const STAR_SEQUENCES = choices({
  star_first: 'Star contactor first',
  together: 'Line and star together',
})
export const REVERSING_SEQUENCES = choices({ stop_first: 'Through stop', direct: 'At once' })
export const WINDINGS_TURNED = choices({ main: 'Main winding', start: 'Start winding' })
export const RUNNING_FEEDS = choices({ contactor: 'The contactor', command: 'The command' })
export const LAMP_FEEDS = choices({
  after_overload: 'After overload and stop',
  line: 'From the live side',
})
export const LAMP_CODES = choices({
  run_green: 'Running green, stopped red',
  machine: 'Machine: green, white, amber',
  live_red: 'Running red, stopped green',
})
export const WIRE_COLOURS = choices({
  iec: 'IEC',
  north_american: 'North American',
  red_yellow_blue: 'Red, yellow, blue',
})
export const CONTROL_PHASES = choices({ L1: 'L1', L2: 'L2', L3: 'L3' })
export const VARIANTS = choices({
  sound: 'Correct',
  as_often_built: 'As often built, with its faults',
})
export const LAMPS = choices({
  running: 'Running',
  stopped: 'Stopped',
  tripped: 'Tripped',
  phase_healthy: 'Phases healthy',
  phase_fault: 'Phase fault',
})
export const SIGNAL_FORMS = choices({
  on_trip: 'Pulls in on a trip',
  fail_safe: 'In while healthy, drops out on a fault',
})
export const CAPACITOR_SWITCHES = choices({
  button: 'By the start button',
  centrifugal: 'By a centrifugal switch',
  relay: 'By a current relay',
  potential_relay: 'By a potential relay',
  timer: 'By a time relay',
})
/** Quantities of a panel meter. */
export const QUANTITIES: Record<string, string> = {
  voltage_l1_l2: 'Voltage L1-L2, V',
  voltage_l2_l3: 'Voltage L2-L3, V',
  voltage_l3_l1: 'Voltage L3-L1, V',
  voltage_l1_n: 'Voltage L1-N, V',
  current_l1: 'Current L1, A',
  current_l2: 'Current L2, A',
  current_l3: 'Current L3, A',
  frequency: 'Frequency, Hz',
  power_factor: 'Power factor',
  active_power: 'Active power, kW',
  start_current: 'Starting current, A',
  start_time: 'Starting time, s',
  star_time: 'Star time, s',
  dwell_ms: 'Pause of the change-over, ms',
}
