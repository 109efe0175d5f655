import { Button, Input, Select } from 'antd'
import { type SubmitEvent, useState } from 'react'
import type { JobView, Schemas } from '../api/client'
import { useChangeJob } from '../api/jobs'
import { Problem } from '../shared/Problem'

type Terminal = NonNullable<Schemas['Pin']['terminal']>

interface Row {
  number: string
  terminal: Terminal | ''
  colour: string
}

/** Wire colours and cavities, entered once for the vehicle; kept with the job and offered for the next on the model. */
export function PinTable({ view }: { view: JobView }) {
  const [rows, setRows] = useState<Row[]>(() =>
    view.plug.cavities.map((cavity) => ({
      number: cavity.number,
      terminal: cavity.assumed ? '' : ((cavity.terminal ?? '') as Terminal | ''),
      colour: cavity.colour ?? '',
    })),
  )
  const change = useChangeJob(view.id)
  const set = (index: number, part: Partial<Row>) =>
    setRows(rows.map((row, at) => (at === index ? { ...row, ...part } : row)))
  const save = (event: SubmitEvent) => {
    event.preventDefault()
    const known = rows.filter((row) => row.number.trim() && (row.terminal || row.colour.trim()))
    const gone: [string, null][] = Object.keys(view.case.sensor?.pins ?? {}).map((number) => [number, null])
    const written = known.map(
      (row) => [row.number.trim(), { terminal: row.terminal || null, colour: row.colour.trim() || null }] as const,
    )
    const pins = { ...Object.fromEntries(gone), ...Object.fromEntries(written) }
    change.mutate({ sensor: { pins } })
  }
  return (
    <form className="pins" onSubmit={save} aria-label="Pin table">
      {rows.map((row, index) => (
        <div key={index} className="pin-row">
          <Input
            value={row.number}
            onChange={(event) => set(index, { number: event.target.value })}
            aria-label={`Cavity number, row ${index + 1}`}
          />
          <Select
            value={row.terminal}
            onChange={(terminal) => set(index, { terminal })}
            aria-label={`Terminal of cavity ${row.number}`}
            options={[
              { value: '', label: 'not known' },
              ...view.drawing.terminals.map((terminal) => ({
                value: terminal.terminal,
                label: terminal.label,
              })),
            ]}
          />
          <Input
            value={row.colour}
            onChange={(event) => set(index, { colour: event.target.value })}
            placeholder="colour"
            aria-label={`Wire colour of cavity ${row.number}`}
          />
        </div>
      ))}
      <Button htmlType="submit" type="primary" loading={change.isPending}>
        Keep the pin table
      </Button>
      {change.isSuccess && <span role="status"> Kept.</span>}
      {change.error && <Problem error={change.error} />}
    </form>
  )
}
