import { vocabulary } from './vocabulary'

/** A field's path as a person finds it: `readings[3].sensor_c` is "Reading 4, element temperature:". */
export function plainField(field: string): string {
  const last = (field.split('.').at(-1) ?? field).replace(/\[\d+\]/g, '')
  const name = vocabulary().fields[last] ?? last.replace(/_/g, ' ')
  const reading = /^readings\[(\d+)\]\./.exec(field)
  const text = reading ? `reading ${Number(reading[1]) + 1}, ${name}` : name
  return text ? `${text.charAt(0).toUpperCase()}${text.slice(1)}:` : ''
}
