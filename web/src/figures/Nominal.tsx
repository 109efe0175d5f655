import { Button, Form, Input } from 'antd'
import type { Schemas } from '../api/client'
import { typedNumber, typedRange } from '../shared/typed'

type Sensor = Schemas['Sensor']

/** The stored figures of the form: it starts anew when these change, and only then, so that nothing typed is lost. */
export function stored(sensor: Sensor): string {
  return JSON.stringify([
    sensor.heater_ohms_20c,
    sensor.heater_amps,
    sensor.bias_v,
    sensor.torque_nm,
    sensor.spec_source,
  ])
}

/** The figures as text, a range as its two ends. */
interface Typed {
  ohms: [string, string]
  amps: [string, string]
  bias: string
  torque: string
  source: string
}

const asTyped = (sensor: Sensor): Typed => ({
  ohms: ends(sensor.heater_ohms_20c),
  amps: ends(sensor.heater_amps),
  bias: String(sensor.bias_v ?? ''),
  torque: String(sensor.torque_nm ?? ''),
  source: sensor.spec_source ?? '',
})

const asFigures = ({ ohms, amps, bias, torque, source }: Typed) =>
  ({
    heater_ohms_20c: typedRange(ohms),
    heater_amps: typedRange(amps),
    bias_v: typedNumber(bias),
    torque_nm: typedNumber(torque),
    spec_source: source.trim() || null,
  }) as Partial<Sensor>

/** The figures that are typed, kept together with where they come from. general: what the cold heater usually has. */
export function Nominal(props: {
  sensor: Sensor
  general: string
  onKeep: (part: Partial<Sensor>) => void
  onEdit: () => void
}) {
  return (
    <Form<Typed>
      className="spec-new"
      initialValues={asTyped(props.sensor)}
      onFinish={(typed) => props.onKeep(asFigures(typed))}
      onValuesChange={props.onEdit}
    >
      <Ends name="ohms" label="Heater, cold (20 °C)" unit="Ω" hint={props.general} />
      <Ends name="amps" label="Heater current, settled" unit="A" hint="" />
      <label className="pair">
        Signal bias of the module, V
        <Form.Item name="bias" noStyle>
          <Input className="figure" inputMode="decimal" />
        </Form.Item>
      </label>
      <label className="pair">
        Torque the sensor is fitted with, N m
        <Form.Item name="torque" noStyle>
          <Input className="figure" inputMode="decimal" />
        </Form.Item>
      </label>
      <label className="pair">
        Where the figures come from
        <Form.Item name="source" noStyle>
          <Input maxLength={300} placeholder="service data, page" />
        </Form.Item>
      </label>
      <Button type="primary" htmlType="submit">
        Keep these figures
      </Button>
    </Form>
  )
}

function Ends({ name, label, unit, hint }: { name: string; label: string; unit: string; hint: string }) {
  return (
    <div className="pair">
      <span>
        {label}
        {hint && <span className="muted"> in general {hint}</span>}
      </span>
      <span className="ends">
        {['from', 'to'].map((end, at) => (
          <Form.Item key={end} name={[name, at]} noStyle>
            <Input className="figure" inputMode="decimal" aria-label={`${label}, ${end}`} />
          </Form.Item>
        ))}
        <span className="muted">{unit}</span>
      </span>
    </div>
  )
}

function ends(range: readonly unknown[] | null | undefined): [string, string] {
  return range ? [String(range[0]), String(range[1])] : ['', '']
}
