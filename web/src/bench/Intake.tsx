import { Alert, Button, Drawer, Form, Input, Select } from 'antd'
import { useEffect, useRef, useState } from 'react'
import { Link } from 'react-router'
import type { JobView, Schemas } from '../api/client'
import { useChangeJob } from '../api/jobs'
import { useCustomer, useKeepCustomer } from '../api/customer'
import { useFamilies } from '../api/reference'
import { placeOf, SENSORS } from '../shared/sensors'
import { Problem } from '../shared/Problem'
import { Writers } from '../people/Writers'
import { say, vocabulary } from '../shared/vocabulary'

type Change = Schemas['CaseChange']
type Listed = Schemas['ListedCode']

/** What the job began with, all of it open to change: each change is kept at once and everything is worked out anew. */
export function Intake({ view }: { view: JobView }) {
  const [open, setOpen] = useState(false)
  return (
    <>
      <Button onClick={() => setOpen(true)}>Intake</Button>
      <Drawer
        title={`Intake · ${view.case.vehicle.label}`}
        open={open}
        onClose={() => setOpen(false)}
        size={520}
        destroyOnHidden
      >
        <Writers>
          <Sheet view={view} />
        </Writers>
      </Drawer>
    </>
  )
}

function Sheet({ view }: { view: JobView }) {
  const change = useChangeJob(view.id)
  const keep = (part: Change) => change.mutate(part)
  const told = view.case
  const spoken = (values: readonly string[]) => values.map((value) => ({ value, label: say(value) }))
  return (
    <Form layout="vertical" component={false}>
      {change.error && <Problem error={change.error} />}
      <Codes codes={told.codes} statuses={spoken(vocabulary().code_statuses)} onKeep={(codes) => keep({ codes })} />
      <Form.Item label="What the driver says">
        <Kept text={told.complaint ?? ''} label="What the driver says" onKeep={(complaint) => keep({ complaint })} />
      </Form.Item>
      <Form.Item label="Symptoms">
        <Select
          mode="multiple"
          aria-label="Symptoms"
          placeholder="none noted"
          value={[...(told.symptoms ?? [])]}
          options={spoken(vocabulary().symptoms)}
          onChange={(symptoms) => keep({ symptoms })}
        />
      </Form.Item>
      <Form.Item label="Recent work, and what else happened to it">
        <Select
          mode="multiple"
          aria-label="Recent work"
          placeholder="nothing known"
          value={[...(told.history ?? [])]}
          options={spoken(vocabulary().history)}
          onChange={(history) => keep({ history })}
        />
      </Form.Item>
      <Which view={view} onKeep={(sensor) => keep({ sensor })} />
      <Customer id={view.id} />
      <p>
        <Link to={`/jobs/${view.id}/figures`}>The vehicle’s own figures</Link> ·{' '}
        <Link to={`/jobs/${view.id}/place`}>Layout, plug and pins</Link>
      </p>
    </Form>
  )
}

/** The codes with their status; more can be added at any time. */
function Codes({
  codes,
  statuses,
  onKeep,
}: {
  codes: readonly Listed[]
  statuses: { value: string; label: string }[]
  onKeep: (codes: Listed[]) => void
}) {
  const [typed, setTyped] = useState('')
  const add = () => {
    const code = typed.trim().toUpperCase()
    if (!code) return
    onKeep([...codes, { code, status: 'stored' }])
    setTyped('')
  }
  return (
    <Form.Item label="Codes" className="intake-codes">
      {codes.map((item, place) => (
        <div key={`${item.code}${place}`} className="intake-code">
          <span className="figure">{item.code}</span>
          <Select
            aria-label={`Status of ${item.code}`}
            value={item.status ?? undefined}
            placeholder="status"
            options={statuses}
            onChange={(status: string) =>
              onKeep(
                codes.map((other, at) =>
                  at === place ? { ...other, status: status as NonNullable<Listed['status']> } : other,
                ),
              )
            }
          />
          <Button aria-label={`Take away ${item.code}`} onClick={() => onKeep(codes.filter((_, at) => at !== place))}>
            Take away
          </Button>
        </div>
      ))}
      <div className="intake-code">
        <Input
          className="figure"
          value={typed}
          onChange={(event) => setTyped(event.target.value)}
          onPressEnter={add}
          placeholder="one more code"
          aria-label="One more code"
        />
        <Button onClick={add} disabled={!typed.trim()}>
          Add
        </Button>
      </div>
    </Form.Item>
  )
}

/** Which sensor and of which kind, with what tells the kinds apart. */
function Which({ view, onKeep }: { view: JobView; onKeep: (sensor: Schemas['SensorChange']) => void }) {
  const families = useFamilies().data ?? []
  const { sensor } = view.case
  const address = sensor?.bank && sensor.position ? `B${sensor.bank}S${sensor.position}` : undefined
  const chosen = families.find((item) => item.id === sensor?.family)
  return (
    <>
      <Form.Item label="Sensor" help={address ? undefined : `By the code: ${view.where}`}>
        <Select
          aria-label="Which sensor"
          allowClear
          placeholder="as the code names it"
          value={address}
          options={SENSORS}
          onChange={(value?: string) => onKeep(value ? placeOf(value) : { bank: null, position: null })}
        />
      </Form.Item>
      <Form.Item label="Kind of sensor" help={chosen?.told_by ?? `Taken for ${view.family_label}`}>
        <Select
          aria-label="Kind of sensor"
          allowClear
          placeholder="not known"
          value={sensor?.family ?? undefined}
          options={families.map((item) => ({ value: item.id, label: item.label, told: item.told_by }))}
          optionRender={({ data }) => (
            <span className="kind-option">
              <strong>{data.label}</strong>
              <span className="muted">{data.told}</span>
            </span>
          )}
          onChange={(family?: Schemas['Sensor']['family']) => onKeep({ family: family ?? null })}
        />
      </Form.Item>
      {!chosen && view.verdict.family_why && <Alert type="info" title={view.verdict.family_why} />}
    </>
  )
}

const OF_CUSTOMER = [['name', 'Customer'], ['plate', 'Plate'], ['vin', 'VIN']] as const // prettier-ignore

/** Whom the vehicle belongs to: kept apart from the case, and never in its file. */
function Customer({ id }: { id: number }) {
  const customer = useCustomer(id)
  const keep = useKeepCustomer(id)
  const known = customer.data
  if (!known) return customer.error ? <Problem error={customer.error} /> : null
  return (
    <Form.Item label="Customer (kept apart, never in the case file)">
      <div className="intake-customer">
        {OF_CUSTOMER.map(([name, label]) => (
          <Kept
            key={name}
            oneLine
            text={known[name] ?? ''}
            label={label}
            onKeep={(text) => keep.mutate({ [name]: text })}
          />
        ))}
      </div>
      {keep.error && <Problem error={keep.error} />}
    </Form.Item>
  )
}

/** A text that is kept when it is left, or when the sheet is closed over it. */
function Kept({
  text,
  label,
  onKeep,
  oneLine = false,
}: {
  text: string
  label: string
  onKeep: (text: string) => void
  oneLine?: boolean
}) {
  const [typed, setTyped] = useState(text)
  const leave = useRef(() => {})
  useEffect(() => {
    leave.current = () => typed !== text && onKeep(typed)
  })
  useEffect(() => () => leave.current(), [])
  if (oneLine)
    return (
      <Input
        aria-label={label}
        placeholder={label}
        maxLength={label === 'Customer' ? 200 : 40}
        value={typed}
        onChange={(event) => setTyped(event.target.value)}
        onBlur={() => leave.current()}
      />
    )
  return (
    <Input.TextArea
      autoSize={{ minRows: 2, maxRows: 5 }}
      aria-label={label}
      value={typed}
      onChange={(event) => setTyped(event.target.value)}
      onBlur={() => leave.current()}
    />
  )
}
