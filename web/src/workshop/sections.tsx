import { Checkbox, Form, Input, Select, Table } from 'antd'
import type { Schemas } from '../api/client'
import { Mark } from './Mark'
import { MONEY, TOOLS } from './settings'

const MINUTES: Record<string, string> = {
  scan: 'to the scan tool',
  battery: 'to the battery',
  fusebox: 'to the fuse box',
  plug: 'to the sensor plug, under the hood',
  'plug-below': 'to a plug under the vehicle',
  inline: 'to the in-line connector',
  module: 'to the module',
  look: 'a look around',
  key: 'key turned, engine started or stopped',
  connector: 'plug apart or mated',
  module_connector: 'module unplugged or mated',
  codes_cleared: 'codes cleared',
  battery_off: 'battery off or on',
  cooling: 'waiting for a cold element',
}

export function ToolsAtHand() {
  return (
    <section aria-label="Tools at hand">
      <h2>Tools at hand</h2>
      <p className="muted">Readings that need another tool are not proposed. The proof stays the same.</p>
      <Form.Item name="tools" noStyle>
        <Checkbox.Group className="tools" options={TOOLS} />
      </Form.Item>
    </section>
  )
}

/** general: the figures that stand where the workshop gives none, by place or change of state. */
export function Minutes({ general }: { general: Record<string, number> }) {
  return (
    <section aria-label="Minutes" className="minutes">
      <h2>Minutes it takes here</h2>
      <p className="muted">Leave a field empty to use the general figure that it shows.</p>
      {Object.entries(MINUTES)
        .filter(([name]) => name in general)
        .map(([name, label]) => (
          <label key={name}>
            {label}
            <Form.Item name={['minutes', name]} noStyle>
              <Input className="figure" inputMode="decimal" placeholder={String(general[name])} />
            </Form.Item>
            <span className="muted">min</span>
          </label>
        ))}
    </section>
  )
}

export function Worth() {
  const currency = Form.useWatch<string | undefined>('currency')
  return (
    <section aria-label="What certainty is worth">
      <h2>What certainty is worth</h2>
      <p className="muted">
        With these three figures every job says whether it pays to measure on or to fit the part now.
      </p>
      {Object.entries(MONEY).map(([name, label]) => (
        <label key={name}>
          {label}
          <Form.Item name={name} noStyle>
            <Input className="figure" inputMode="decimal" />
          </Form.Item>
          <span className="muted">{currency}</span>
        </label>
      ))}
      <label>
        Currency
        <Form.Item name="currency" noStyle>
          <Input maxLength={8} />
        </Form.Item>
      </label>
    </section>
  )
}

const FITTED = { early: 'before the decision stood', decided: 'on the decision' }

export function Outcomes({ outcomes }: { outcomes: Schemas['WorkshopView']['outcomes'] }) {
  return (
    <section aria-label="What became of the repairs" className="outcomes">
      <h2>What became of the repairs</h2>
      <Table
        size="small"
        pagination={false}
        rowKey="when"
        dataSource={[...outcomes]}
        columns={[
          { title: 'Fitted', render: (_, item) => FITTED[item.when] },
          { title: 'Repairs', dataIndex: 'repairs', className: 'figure' },
          { title: 'Proven', dataIndex: 'proven', className: 'figure' },
          { title: 'Came back', dataIndex: 'came_back', className: 'figure' },
        ]}
      />
    </section>
  )
}

const PAPERS = [
  { value: 'a4', label: 'A4' },
  { value: 'letter', label: 'Letter' },
]

export function OnThePapers({ mark }: { mark: string | null }) {
  return (
    <section aria-label="On the papers" className="on-papers">
      <h2>On the papers</h2>
      <label>
        Name and address
        <Form.Item name="name" noStyle>
          <Input maxLength={200} />
        </Form.Item>
      </label>
      <Mark mark={mark} />
      <label>
        Paper
        <Form.Item name="paper" noStyle>
          <Select aria-label="Paper" options={PAPERS} />
        </Form.Item>
      </label>
      <label>
        Monitors that may be incomplete at the local inspection
        <Form.Item name="incomplete" noStyle>
          <Input className="figure" inputMode="numeric" />
        </Form.Item>
      </label>
    </section>
  )
}
