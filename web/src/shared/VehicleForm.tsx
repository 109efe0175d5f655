import { Select } from 'antd'
import type { JobView, Schemas } from '../api/client'
import { useChangeJob } from '../api/jobs'
import { usePresets } from '../api/reference'
import { Problem } from './Problem'

type Engine = Schemas['VehicleEngine']

const FIELDS: { name: keyof Engine; label: string; options: [string, string][] }[] = [
  { name: 'layout', label: 'Layout', options: [['inline', 'inline'], ['v', 'V'], ['flat', 'flat']] },
  { name: 'mounting', label: 'Mounted', options: [['longitudinal', 'lengthwise'], ['transverse', 'across']] },
  { name: 'cylinders', label: 'Cylinders', options: ['2', '3', '4', '5', '6', '8', '10', '12'].map((n) => [n, n]) },
  { name: 'sensor_banks', label: 'Sensor banks', options: [['1', 'one'], ['2', 'two']] },
  { name: 'bank_1', label: 'Bank 1 is', options: [['left', 'left'], ['right', 'right'], ['front', 'front / radiator'], ['rear', 'rear / firewall']] },
] // prettier-ignore

/** What is known of the vehicle's layout. Every change is kept at once; anything may stay unknown. */
export function VehicleForm({ view }: { view: JobView }) {
  const presets = usePresets()
  const change = useChangeJob(view.id)
  const { vehicle } = view.case
  const engine: Engine = vehicle.engine ?? {}
  const keepVehicle = (part: Record<string, unknown>) => change.mutate({ vehicle: part })
  const setEngine = (name: keyof Engine, text: string) => {
    const value = text === '' ? null : name === 'cylinders' || name === 'sensor_banks' ? Number(text) : text
    keepVehicle({ engine: { [name]: value } })
  }
  const setCatalysts = (text: string) =>
    keepVehicle({ engine: { exhaust: { catalysts_in_row: text === '' ? null : Number(text) } } })
  return (
    <form className="vehicle-form" aria-label="Vehicle layout">
      <Choice
        label="Start from a usual layout"
        value=""
        unknown="choose…"
        options={(presets.data ?? []).map((preset) => [preset.id, preset.label])}
        onChange={(id) => {
          const preset = presets.data?.find((item) => item.id === id)
          if (preset) keepVehicle({ ...stripped(preset.vehicle), engine: preset.vehicle.engine, label: vehicle.label })
        }}
      />
      {FIELDS.map((field) => (
        <Choice
          key={field.name}
          label={field.label}
          value={plain(engine[field.name])}
          options={field.options}
          onChange={(text) => setEngine(field.name, text)}
        />
      ))}
      <Choice
        label="Catalysts in a row"
        value={String(engine.exhaust?.catalysts_in_row ?? '')}
        options={[
          ['0', 'none'],
          ['1', 'one'],
          ['2', 'two'],
        ]}
        onChange={setCatalysts}
      />
      <Choice
        label="Steering wheel"
        value={vehicle.steering ?? ''}
        options={[
          ['left', 'left'],
          ['right', 'right'],
        ]}
        onChange={(text) => keepVehicle({ steering: text === '' ? null : text })}
      />
      {change.error && <Problem error={change.error} />}
    </form>
  )
}

function stripped(vehicle: Schemas['Vehicle']): Partial<Schemas['Vehicle']> {
  return Object.fromEntries(Object.entries(vehicle).filter(([, value]) => value !== null))
}

export function Choice(props: {
  label: string
  value: string
  options: [string, string][]
  unknown?: string
  onChange: (value: string) => void
}) {
  return (
    <div className="choice-row">
      <span>{props.label}</span>
      <Select
        aria-label={props.label}
        value={props.value}
        onChange={props.onChange}
        options={[
          { value: '', label: props.unknown ?? 'not known' },
          ...props.options.map(([value, label]) => ({ value, label })),
        ]}
      />
    </div>
  )
}

/** A field of the engine as the value of a choice. */
const plain = (value: unknown) => (typeof value === 'string' || typeof value === 'number' ? String(value) : '')
