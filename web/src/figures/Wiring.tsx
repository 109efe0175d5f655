import type { JobView, Schemas } from '../api/client'
import { useFamilies } from '../api/reference'
import { Problem } from '../shared/Problem'
import { Choice } from '../shared/VehicleForm'
import { Nominal, stored } from './Nominal'

type Sensor = Schemas['Sensor']
type Vehicle = Schemas['Vehicle']
type Options = [string, string][]

const OF_SENSOR: { field: 'heater_switch' | 'heater_drive'; label: string; options: Options }[] = [
  {
    field: 'heater_switch',
    label: 'Heater switched at',
    options: [
      ['low-side', 'ground side, by the module'],
      ['high-side', 'supply side, by the module'],
    ],
  },
  {
    field: 'heater_drive',
    label: 'Heater driven',
    options: [
      ['steady', 'steadily'],
      ['pwm', 'pulsed (PWM)'],
    ],
  },
]
const FEED_LIVE: Options = [
  ['always', 'always'],
  ['key-on', 'with the key on'],
  ['running', 'with the engine running'],
]
const SYSTEM_VOLTAGE: Options = [
  ['12', '12 V'],
  ['24', '24 V'],
]
const MONITOR: Options = [
  ['yes', 'the vehicle has one'],
  ['no', 'it has none'],
]

interface Changing {
  error: Error | null
  onChange: (part: Record<string, unknown>) => void
  /** Something typed is not kept yet. */
  onEdit: () => void
}

export function Wiring({ view, error, onChange, onEdit }: { view: JobView } & Changing) {
  const sensor: Sensor = view.case.sensor ?? {}
  const vehicle = view.case.vehicle
  const families = useFamilies().data ?? []
  const keep = (part: Partial<Sensor>) => onChange({ sensor: part })
  const keepVehicle = (part: Partial<Vehicle>) => onChange({ vehicle: part })
  const chosen = families.find((item) => item.label === view.family_label)
  const general = chosen?.heater_ohms_20c
  return (
    <section aria-label="Wiring and nominal figures">
      <h2>Wiring and nominal figures</h2>
      <p className="muted">What you leave empty is taken as it usually is on such sensors.</p>
      <Choice
        label="Sensor"
        value={sensor.family ?? ''}
        unknown={`not known (${view.family_label})`}
        options={families.map((item) => [item.id, item.label])}
        onChange={(text) => keep({ family: (text || null) as Sensor['family'] })}
      />
      {OF_SENSOR.map(({ field, label, options }) => (
        <Choice
          key={field}
          label={label}
          value={sensor[field] ?? ''}
          options={options}
          onChange={(text) => keep({ [field]: text || null })}
        />
      ))}
      <Choice
        label="Feed is live"
        value={vehicle.feed_live ?? ''}
        options={FEED_LIVE}
        onChange={(text) => keepVehicle({ feed_live: (text || null) as Vehicle['feed_live'] })}
      />
      <Choice
        label="System voltage"
        value={String(vehicle.system_voltage ?? '')}
        options={SYSTEM_VOLTAGE}
        onChange={(text) => keepVehicle({ system_voltage: text === '' ? null : (Number(text) as 12 | 24) })}
      />
      <Choice
        label="Heater monitor"
        value={sensor.heater_monitor === true ? 'yes' : sensor.heater_monitor === false ? 'no' : ''}
        options={MONITOR}
        onChange={(text) => keep({ heater_monitor: text === '' ? null : text === 'yes' })}
      />
      <Nominal
        key={stored(sensor)}
        sensor={sensor}
        general={general ? `${general[0]} to ${general[1]}` : ''}
        onKeep={keep}
        onEdit={onEdit}
      />
      {error && <Problem error={error} />}
    </section>
  )
}
