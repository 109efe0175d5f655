import { Button, Form, Input, Select } from 'antd'
import type { JobView, Schemas } from '../api/client'
import { useChangeJob } from '../api/jobs'
import { Problem } from '../shared/Problem'

type Terminal = NonNullable<Schemas['Pin']['terminal']>
type Pins = NonNullable<Schemas['Sensor']['pins']>

interface Row {
  number: string
  terminal: Terminal | ''
  colour: string
}

const rowsOf = (view: JobView): Row[] =>
  view.plug.cavities.map((cavity) => ({
    number: cavity.number,
    terminal: cavity.assumed ? '' : ((cavity.terminal ?? '') as Terminal | ''),
    colour: cavity.colour ?? '',
  }))

/** The pins as they are sent: what was known before and is not there any more is taken away. */
function pinsOf(rows: Row[], before: Pins): Pins {
  const known = rows.filter((row) => row.number.trim() && (row.terminal || row.colour.trim()))
  const written = known.map(
    (row) => [row.number.trim(), { terminal: row.terminal || null, colour: row.colour.trim() || null }] as const,
  )
  const gone: [string, null][] = Object.keys(before).map((number) => [number, null])
  return { ...Object.fromEntries(gone), ...Object.fromEntries(written) } as Pins
}

/** Wire colours and cavities, entered once for the vehicle; kept with the job and offered for the next on the model. */
export function PinTable({ view }: { view: JobView }) {
  const change = useChangeJob(view.id)
  const keep = ({ rows }: { rows: Row[] }) =>
    change.mutate({ sensor: { pins: pinsOf(rows, view.case.sensor?.pins ?? {}) } })
  return (
    <Form className="pins" initialValues={{ rows: rowsOf(view) }} onFinish={keep} aria-label="Pin table">
      <Form.List name="rows">
        {(rows) => rows.map(({ key, name }) => <PinRow key={key} at={name} terminals={view.drawing.terminals} />)}
      </Form.List>
      <Button htmlType="submit" type="primary" loading={change.isPending}>
        Keep the pin table
      </Button>
      {change.isSuccess && <span role="status"> Kept.</span>}
      {change.error && <Problem error={change.error} />}
    </Form>
  )
}

function PinRow({ at, terminals }: { at: number; terminals: JobView['drawing']['terminals'] }) {
  const number = Form.useWatch<string | undefined>(['rows', at, 'number']) ?? ''
  const options = terminals.map(({ terminal, label }) => ({ value: terminal, label }))
  return (
    <div className="pin-row">
      <Form.Item name={[at, 'number']} noStyle>
        <Input aria-label={`Cavity number, row ${at + 1}`} />
      </Form.Item>
      <Form.Item name={[at, 'terminal']} noStyle>
        <Select aria-label={`Terminal of cavity ${number}`} options={[{ value: '', label: 'not known' }, ...options]} />
      </Form.Item>
      <Form.Item name={[at, 'colour']} noStyle>
        <Input placeholder="colour" aria-label={`Wire colour of cavity ${number}`} />
      </Form.Item>
    </div>
  )
}
