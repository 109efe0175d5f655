export const RESULT_MARK = { pass: '✓', fail: '✗', unclear: '?' } as const
export const RESULT_WORD = { pass: 'good', fail: 'bad', unclear: 'not clear' } as const

/** Fields that are called otherwise on the screen than in the case file. */
const FIELD: Record<string, string> = {
  sensor_c: 'element temperature', at_s: 'seconds since start', red: 'red lead', black: 'black lead', at: 'point',
  of: 'part measured', with: 'taken with', pid: 'scan value', jumper: 'bridge', rise_s: 'edge', delay_s: 'follows after',
  first_activity_s: 'first moves', switches_per_min: 'switches a minute', duty_low: 'low', heater_ohms_20c: 'heater at 20 °C',
  heater_amps: 'heater current', bias_v: 'bias', torque_nm: 'torque', spec_source: 'where it comes from', ohms_20c: 'element at 20 °C',
  meter_v: 'what the meter shows', old: 'password until now', new: 'new password', labour_per_hour: 'labour', part_price: 'a sensor', wrong_call_cost: 'a wrong call',
} // prettier-ignore

/** A field's path as a person finds it: `readings[3].sensor_c` is "Reading 4, element temperature:". */
export function plainField(field: string): string {
  const last = (field.split('.').at(-1) ?? field).replace(/\[\d+\]/g, '')
  const name = FIELD[last] ?? last.replace(/_/g, ' ')
  const reading = /^readings\[(\d+)\]\./.exec(field)
  const text = reading ? `reading ${Number(reading[1]) + 1}, ${name}` : name
  return text ? `${text.charAt(0).toUpperCase()}${text.slice(1)}:` : ''
}
