import { Button, Input } from 'antd'
import { type SubmitEvent, useState } from 'react'
import { Link, useParams } from 'react-router'
import type { JobView, Schemas } from '../api/client'
import { useChangeJob, useFamilies, useJob } from '../api/jobs'
import { typedNumber, typedRange } from '../shared/typed'
import { Corner } from '../shared/Corner'
import { OwnRanges } from './OwnRanges'
import { Problem } from '../shared/Problem'
import { Choice } from '../shared/VehicleForm'
import { Writers } from '../people/Writers'

type Sensor = Schemas['Sensor']

/** What the service data of this vehicle says of the sensor: it wins over every general figure, everywhere. */
export function FiguresPage() {
  const id = Number(useParams()['id'])
  const job = useJob(id)
  const change = useChangeJob(id)
  const view = job.data
  if (!view && job.error) return <Problem error={job.error} />
  if (!view) return <p className="muted waiting">Fetching the job…</p>
  return (
    <main className="figures-page">
      <header className="bench-head">
        <Link to={`/jobs/${id}`} className="quiet">
          ← Workbench
        </Link>
        <h1>
          Figures of {view.where} · {view.case.vehicle.label}
        </h1>
        {change.isPending && (
          <span className="muted" role="status">
            Keeping it…
          </span>
        )}
        {change.isSuccess && (
          <span className="saved" role="status">
            Kept: every reading is judged anew
          </span>
        )}
        <Corner />
      </header>
      <Writers>
        <Wiring
          view={view}
          error={change.error}
          onChange={(part) => change.mutate(part)}
          onEdit={() => change.reset()}
        />
        <OwnRanges view={view} />
      </Writers>
    </main>
  )
}

interface Changing {
  error: Error | null
  onChange: (part: Record<string, unknown>) => void
  /** Something typed is not kept yet. */
  onEdit: () => void
}

function Wiring({ view, error, onChange, onEdit }: { view: JobView } & Changing) {
  const sensor: Sensor = view.case.sensor ?? {}
  const families = useFamilies().data ?? []
  const keep = (part: Partial<Sensor>) => onChange({ sensor: part })
  const keepVehicle = (part: Partial<Schemas['Vehicle']>) => onChange({ vehicle: part })
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
      <Choice
        label="Heater switched at"
        value={sensor.heater_switch ?? ''}
        options={[
          ['low-side', 'ground side, by the module'],
          ['high-side', 'supply side, by the module'],
        ]}
        onChange={(text) => keep({ heater_switch: (text || null) as Sensor['heater_switch'] })}
      />
      <Choice
        label="Heater driven"
        value={sensor.heater_drive ?? ''}
        options={[
          ['steady', 'steadily'],
          ['pwm', 'pulsed (PWM)'],
        ]}
        onChange={(text) => keep({ heater_drive: (text || null) as Sensor['heater_drive'] })}
      />
      <Choice
        label="Feed is live"
        value={view.case.vehicle.feed_live ?? ''}
        options={[
          ['always', 'always'],
          ['key-on', 'with the key on'],
          ['running', 'with the engine running'],
        ]}
        onChange={(text) => keepVehicle({ feed_live: (text || null) as Schemas['Vehicle']['feed_live'] })}
      />
      <Choice
        label="System voltage"
        value={String(view.case.vehicle.system_voltage ?? '')}
        options={[
          ['12', '12 V'],
          ['24', '24 V'],
        ]}
        onChange={(text) => keepVehicle({ system_voltage: text === '' ? null : (Number(text) as 12 | 24) })}
      />
      <Choice
        label="Heater monitor"
        value={sensor.heater_monitor === true ? 'yes' : sensor.heater_monitor === false ? 'no' : ''}
        options={[
          ['yes', 'the vehicle has one'],
          ['no', 'it has none'],
        ]}
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

/** The stored figures of the form: it starts anew when these change, and only then, so that nothing typed is lost. */
function stored(sensor: Sensor): string {
  return JSON.stringify([
    sensor.heater_ohms_20c,
    sensor.heater_amps,
    sensor.bias_v,
    sensor.torque_nm,
    sensor.spec_source,
  ])
}

/** The figures that are typed, kept together with where they come from. */
function Nominal({
  sensor,
  general,
  onKeep,
  onEdit,
}: {
  sensor: Sensor
  general: string
  onKeep: (part: Partial<Sensor>) => void
  onEdit: () => void
}) {
  const [ohms, setOhms] = useState<[string, string]>(ends(sensor.heater_ohms_20c))
  const [amps, setAmps] = useState<[string, string]>(ends(sensor.heater_amps))
  const [bias, setBias] = useState(sensor.bias_v === null || sensor.bias_v === undefined ? '' : String(sensor.bias_v))
  const [torque, setTorque] = useState(
    sensor.torque_nm === null || sensor.torque_nm === undefined ? '' : String(sensor.torque_nm),
  )
  const [source, setSource] = useState(sensor.spec_source ?? '')
  const submit = (event: SubmitEvent) => {
    event.preventDefault()
    onKeep({
      heater_ohms_20c: typedRange(ohms),
      heater_amps: typedRange(amps),
      bias_v: typedNumber(bias),
      torque_nm: typedNumber(torque),
      spec_source: source.trim() || null,
    } as Partial<Sensor>)
  }
  return (
    <form onSubmit={submit} onChange={onEdit} className="spec-new">
      <Ends label="Heater, cold (20 °C)" unit="Ω" value={ohms} hint={general} onChange={setOhms} />
      <Ends label="Heater current, settled" unit="A" value={amps} hint="" onChange={setAmps} />
      <label className="pair">
        Signal bias of the module, V
        <Input className="figure" inputMode="decimal" value={bias} onChange={(event) => setBias(event.target.value)} />
      </label>
      <label className="pair">
        Torque the sensor is fitted with, N m
        <Input
          className="figure"
          inputMode="decimal"
          value={torque}
          onChange={(event) => setTorque(event.target.value)}
        />
      </label>
      <label className="pair">
        Where the figures come from
        <Input
          value={source}
          maxLength={300}
          placeholder="service data, page"
          onChange={(event) => setSource(event.target.value)}
        />
      </label>
      <Button type="primary" htmlType="submit">
        Keep these figures
      </Button>
    </form>
  )
}

function Ends(props: {
  label: string
  unit: string
  value: [string, string]
  hint: string
  onChange: (value: [string, string]) => void
}) {
  const [low, high] = props.value
  return (
    <div className="pair">
      <span>
        {props.label}
        {props.hint && <span className="muted"> in general {props.hint}</span>}
      </span>
      <span className="ends">
        <Input
          className="figure"
          inputMode="decimal"
          value={low}
          aria-label={`${props.label}, from`}
          onChange={(event) => props.onChange([event.target.value, high])}
        />
        <Input
          className="figure"
          inputMode="decimal"
          value={high}
          aria-label={`${props.label}, to`}
          onChange={(event) => props.onChange([low, event.target.value])}
        />
        <span className="muted">{props.unit}</span>
      </span>
    </div>
  )
}

function ends(range: readonly unknown[] | null | undefined): [string, string] {
  return range ? [String(range[0]), String(range[1])] : ['', '']
}
