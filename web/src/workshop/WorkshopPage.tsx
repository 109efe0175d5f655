import { Alert, Button, Checkbox, Input, Select, Table, Upload } from 'antd'
import { type SubmitEvent, useState } from 'react'
import { Link } from 'react-router'
import type { Schemas } from '../api/client'
import { useSetMark, useSetWorkshop, useWorkshop } from '../api/jobs'
import { typedNumber } from '../shared/typed'
import { Corner } from '../shared/Corner'
import { Problem } from '../shared/Problem'
import { Writers } from '../people/Writers'

type Settings = Schemas['Workshop']
type Tool = NonNullable<Settings['tools']>[number]

const TOOLS: [Tool, string][] = [
  ['meter', 'Multimeter'], ['lamp', 'Test lamp, 5 W and 21 W'], ['scan', 'Scan tool with live data'], ['scope', 'Oscilloscope'],
  ['clamp', 'Current clamp'], ['spare', 'Known-good sensor to try'],
] // prettier-ignore
const MINUTES: Record<string, string> = {
  scan: 'to the scan tool', battery: 'to the battery', fusebox: 'to the fuse box', plug: 'to the sensor plug, under the hood',
  'plug-below': 'to a plug under the vehicle', inline: 'to the in-line connector', module: 'to the module', look: 'a look around',
  key: 'key turned, engine started or stopped', connector: 'plug apart or mated', module_connector: 'module unplugged or mated',
  codes_cleared: 'codes cleared', battery_off: 'battery off or on', cooling: 'waiting for a cold element',
} // prettier-ignore
const MONEY = {
  labour_per_hour: 'Labour, an hour',
  part_price: 'A sensor costs',
  wrong_call_cost: 'A wrong call costs (second visit, part taken back, trust)',
} as const

/** What the workshop has and what its time is worth. It orders the readings and says when certainty pays; never the proof. */
export function WorkshopPage() {
  const workshop = useWorkshop()
  if (workshop.error && !workshop.data) return <Problem error={workshop.error} />
  if (!workshop.data) return <p className="muted waiting">Fetching the settings…</p>
  return (
    <Form
      settings={workshop.data.settings}
      general={workshop.data.general_minutes}
      outcomes={workshop.data.outcomes}
      mark={workshop.data.mark ?? null}
      overdue={[workshop.data.copies_overdue, workshop.data.ledger_broken].filter(Boolean).join(' ')}
    />
  )
}

interface FormProps {
  settings: Settings
  general: Record<string, number>
  outcomes: Schemas['WorkshopView']['outcomes']
  mark: string | null
  overdue: string
}

function Form({ settings, general, outcomes, mark, overdue }: FormProps) {
  const save = useSetWorkshop()
  const [tools, setTools] = useState<Tool[]>(settings.tools ?? TOOLS.map(([tool]) => tool))
  const [minutes, setMinutes] = useState<Record<string, string>>(asText(settings.minutes ?? {}))
  const [money, setMoney] = useState<Record<string, string>>(asText(settings))
  const [name, setName] = useState(settings.name ?? '')
  const [paper, setPaper] = useState(settings.paper ?? 'a4')
  const [incomplete, setIncomplete] = useState(String(settings.incomplete ?? ''))
  const submit = (event: SubmitEvent) => {
    event.preventDefault()
    const figures = Object.fromEntries(Object.keys(MONEY).map((name) => [name, typedNumber(money[name])]))
    const own = Object.fromEntries(
      Object.entries(minutes)
        .filter(([, text]) => text.trim() !== '')
        .map(([name, text]) => [name, typedNumber(text)]),
    )
    save.mutate({
      ...figures,
      tools: tools.length === TOOLS.length ? null : tools,
      minutes: own,
      currency: money['currency']?.trim() || null,
      name: name.trim() || null,
      paper,
      incomplete: typedNumber(incomplete),
    } as Settings)
  }
  return (
    <main>
      <form className="workshop" onSubmit={submit}>
        <header className="bench-head">
          <Link to="/" className="quiet">
            ← Jobs
          </Link>
          <h1>The workshop</h1>
          {save.isSuccess && (
            <span className="saved" role="status">
              Saved
            </span>
          )}
          <Writers>
            <Button type="primary" htmlType="submit" disabled={save.isPending}>
              Save
            </Button>
          </Writers>
          <Corner />
        </header>
        {overdue && <Alert type="warning" showIcon title={overdue} />}
        <Writers>
          <section aria-label="Tools at hand">
            <h2>Tools at hand</h2>
            <p className="muted">Readings that need another tool are not proposed. The proof stays the same.</p>
            <Checkbox.Group
              className="tools"
              value={tools}
              onChange={setTools}
              options={TOOLS.map(([value, label]) => ({ value, label }))}
            />
          </section>
          <section aria-label="Minutes" className="minutes">
            <h2>Minutes it takes here</h2>
            <p className="muted">Leave a field empty to use the general figure that it shows.</p>
            {Object.entries(MINUTES)
              .filter(([name]) => name in general)
              .map(([name, label]) => (
                <label key={name}>
                  {label}
                  <Input
                    className="figure"
                    inputMode="decimal"
                    value={minutes[name] ?? ''}
                    placeholder={String(general[name])}
                    onChange={(event) => setMinutes({ ...minutes, [name]: event.target.value })}
                  />
                  <span className="muted">min</span>
                </label>
              ))}
          </section>
          <section aria-label="What certainty is worth">
            <h2>What certainty is worth</h2>
            <p className="muted">
              With these three figures every job says whether it pays to measure on or to fit the part now.
            </p>
            {Object.entries(MONEY).map(([name, label]) => (
              <label key={name}>
                {label}
                <Input
                  className="figure"
                  inputMode="decimal"
                  value={money[name] ?? ''}
                  onChange={(event) => setMoney({ ...money, [name]: event.target.value })}
                />
                <span className="muted">{money['currency']}</span>
              </label>
            ))}
            <label>
              Currency
              <Input
                value={money['currency'] ?? ''}
                maxLength={8}
                onChange={(event) => setMoney({ ...money, currency: event.target.value })}
              />
            </label>
            {save.error && <Problem error={save.error} />}
          </section>
          <section aria-label="What became of the repairs" className="outcomes">
            <h2>What became of the repairs</h2>
            <Table
              size="small"
              pagination={false}
              rowKey="when"
              dataSource={[...outcomes]}
              columns={[
                {
                  title: 'Fitted',
                  render: (_, item) => (item.when === 'early' ? 'before the decision stood' : 'on the decision'),
                },
                { title: 'Repairs', dataIndex: 'repairs', className: 'figure' },
                { title: 'Proven', dataIndex: 'proven', className: 'figure' },
                { title: 'Came back', dataIndex: 'came_back', className: 'figure' },
              ]}
            />
          </section>
          <section aria-label="On the papers" className="on-papers">
            <h2>On the papers</h2>
            <label>
              Name and address
              <Input value={name} maxLength={200} onChange={(event) => setName(event.target.value)} />
            </label>
            <Mark mark={mark} />
            <label>
              Paper
              <Select
                aria-label="Paper"
                value={paper}
                onChange={setPaper}
                options={[
                  { value: 'a4', label: 'A4' },
                  { value: 'letter', label: 'Letter' },
                ]}
              />
            </label>
            <label>
              Monitors that may be incomplete at the local inspection
              <Input
                className="figure"
                inputMode="numeric"
                value={incomplete}
                onChange={(event) => setIncomplete(event.target.value)}
              />
            </label>
          </section>
        </Writers>
      </form>
    </main>
  )
}

/** The picture at the head of the papers; it is stored at once. */
function Mark({ mark }: { mark: string | null }) {
  const set = useSetMark()
  return (
    <div className="paper-mark">
      {mark ? (
        <img src={`/api/workshop/mark.png?${mark}`} alt="The mark on the papers" />
      ) : (
        <p className="muted">No mark yet: a picture, PNG or JPEG, stands at the head of the papers.</p>
      )}
      <span>
        <Upload
          accept="image/png,image/jpeg,image/webp"
          showUploadList={false}
          beforeUpload={(file) => {
            set.mutate(file)
            return false
          }}
        >
          <Button loading={set.isPending}>{mark ? 'Another mark' : 'Choose a mark'}</Button>
        </Upload>
        {mark && (
          <Button type="text" onClick={() => set.mutate(null)}>
            Take it away
          </Button>
        )}
      </span>
      {set.error && <Problem error={set.error} />}
    </div>
  )
}

function asText(figures: object): Record<string, string> {
  return Object.fromEntries(
    Object.entries(figures)
      .filter(([, value]) => typeof value === 'number' || typeof value === 'string')
      .map(([name, value]) => [name, String(value)]),
  )
}
