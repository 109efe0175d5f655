import { AutoComplete, Button, Form, Input, Select } from 'antd'
import { useDeferredValue } from 'react'
import { useLocation, useNavigate } from 'react-router'
import type { Schemas } from '../api/client'
import { useDecoded, useVehicles } from '../api/reference'
import { useNewJob } from '../api/jobs'
import { Problem } from '../shared/Problem'
import { NOX_SENSORS, placeOf, SENSORS } from '../shared/sensors'
import { CaseFile } from './CaseFile'

interface Typed {
  codes: string
  vehicle: string
  byHand?: string
}

/** A new job from the code as typed, the vehicle, and the sensor where no code names it. */
export function NewJob() {
  const navigate = useNavigate()
  const create = useNewJob()
  const known = useVehicles().data ?? []
  const typed = (useLocation().state as { typed?: string } | null)?.typed ?? ''
  const [form] = Form.useForm<Typed>()
  const said = useSaid(Form.useWatch('codes', form) ?? typed)
  const start = ({ codes, vehicle, byHand }: Typed) =>
    create.mutate(
      { codes, ...vehicleAndSensor(known, vehicle.trim(), byHand), title: '', style: 'live-first' },
      { onSuccess: (view) => void navigate(`/jobs/${view.id}`) },
    )
  return (
    <Form<Typed>
      form={form}
      className="new-job"
      initialValues={{ codes: typed, vehicle: '' }}
      onFinish={start}
      aria-label="New job"
    >
      <CodeField />
      <VehicleField known={known} />
      <Button type="primary" size="large" htmlType="submit" loading={create.isPending}>
        Start the job
      </Button>
      {create.error && <Problem error={create.error} />}
      <Said codes={said} />
      <OtherWays ofScr={namesScrOnly(said)} />
    </Form>
  )
}

/** What the codes say that are typed by now. */
function useSaid(codes: string): Schemas['Decoded'][] {
  const asked = useDeferredValue(codes.trim())
  const decoded = useDecoded(asked)
  return asked.length >= 5 && !decoded.isError ? (decoded.data ?? []) : []
}

/** Whether codes speak of the SCR and none names a sensor: then it is a NOx sensor that is to be chosen. */
const namesScrOnly = (codes: Schemas['Decoded'][]) =>
  codes.some((code) => code.relation === 'scr') && !codes.some((code) => code.sensors?.length)

function CodeField() {
  return (
    <label className="field code-field">
      <span>Type the code, or all that the scan tool lists</span>
      <Form.Item name="codes" noStyle>
        <Input autoFocus size="large" className="figure" placeholder="P0057" name="codes" />
      </Form.Item>
    </label>
  )
}

function VehicleField({ known }: { known: Schemas['KnownVehicle'][] }) {
  const filterOption = (text: string, option?: { value: string }) =>
    Boolean(option?.value.toLowerCase().includes(text.toLowerCase()))
  return (
    <label className="field">
      <span>Vehicle</span>
      <Form.Item name="vehicle" noStyle>
        <AutoComplete
          size="large"
          aria-label="Vehicle"
          placeholder="Which one is it?"
          showSearch={{ filterOption }}
          options={known.map((item) => ({ value: item.vehicle.label }))}
        />
      </Form.Item>
    </label>
  )
}

function OtherWays({ ofScr }: { ofScr: boolean }) {
  return (
    <div className="recent" role="group" aria-label="Other ways to start">
      <span className="muted">No code that names it:</span>
      <Form.Item name="byHand" noStyle>
        <Select
          aria-label="The sensor by hand"
          allowClear
          placeholder="choose the sensor"
          options={ofScr ? NOX_SENSORS : SENSORS}
          className="by-hand"
          popupMatchSelectWidth={false}
        />
      </Form.Item>
      <CaseFile />
    </div>
  )
}

/** What the typed codes say and where their sensors sit, before the job is started. */
function Said({ codes }: { codes: Schemas['Decoded'][] }) {
  if (codes.length === 0) return null
  return (
    <ul className="plain typed-codes" aria-label="What the code says" aria-live="polite">
      {codes.slice(0, 4).map((code) => (
        <li key={code.code}>
          <strong className="figure">{code.code}</strong> <strong>{code.title}</strong>
          <span className="where">{whereOf(code)}</span>
          <span className="muted">{code.explains}</span>
        </li>
      ))}
      {codes.length > 4 && <li className="muted">and {codes.length - 4} more</li>}
    </ul>
  )
}

function whereOf(code: Schemas['Decoded']): string {
  const ofNox = NOX_SENSORS.find((item) => code.kind === 'nox' && item.value === `B${code.bank}S${code.position}`)
  if (ofNox) return ofNox.label
  if (code.bank && code.position) return `Bank ${code.bank} · sensor ${code.position}`
  if (code.sensors?.length) return code.sensors.join(', ')
  return 'It names no sensor: choose it below, or add the sensor’s own code.'
}

/** A vehicle seen before brings its layout, its sensor's figures and its pins; another is only a name. A sensor by hand wins. */
function vehicleAndSensor(
  known: Schemas['KnownVehicle'][],
  label: string,
  byHand: string | undefined,
): Pick<Schemas['NewJob'], 'vehicle' | 'sensor'> {
  const match = known.find((item) => item.vehicle.label === label)
  const place = byHand ? placeOf(byHand) : { bank: null, position: null }
  const sensor = match?.sensor ? { ...match.sensor, ...place } : byHand ? (place as Schemas['Sensor']) : null
  return { vehicle: match?.vehicle ?? { label: label || 'Vehicle not named yet' }, ...(sensor ? { sensor } : {}) }
}
