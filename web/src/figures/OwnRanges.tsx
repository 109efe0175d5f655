import { Button, Form, Input, Select } from 'antd'
import type { JobView, Probe, Schemas } from '../api/client'
import { useChangeJob } from '../api/jobs'
import { Problem } from '../shared/Problem'
import { say } from '../shared/vocabulary'

type Spec = Schemas['Case']['specs'][number]

const WITH_RANGE = ['voltage', 'resistance', 'current', 'scan']

/** Ranges of the vehicle's own for a reading: where one matches, the computed range stands back. */
export function OwnRanges({ view }: { view: JobView }) {
  const specs = view.case.specs ?? []
  const change = useChangeJob(view.id)
  const remove = (spec: Spec) =>
    change.mutate((now) => ({ specs: (now.case.specs ?? []).filter((item) => !isSame(item, spec)) }))
  return (
    <section aria-label="Ranges of this vehicle">
      <h2>Ranges of this vehicle</h2>
      <p className="muted">
        A reading at the same points in the same state is judged against these instead of the computed range.
      </p>
      {specs.length === 0 && <p className="muted">None yet: every range shown is computed from general figures.</p>}
      {specs.map((spec, index) => (
        <div key={index} className="spec-line">
          <span>
            <span className="figure">{spec.range.map((end) => end ?? '…').join(' to ')}</span> {pointsOf(view, spec)}
            <br />
            <span className="muted">{spec.source}</span>
          </span>
          <Button onClick={() => remove(spec)}>Remove</Button>
        </div>
      ))}
      <NewRange view={view} change={change} />
      {change.error && <Problem error={change.error} />}
    </section>
  )
}

const isSame = (one: Spec, other: Spec) => JSON.stringify(one) === JSON.stringify(other)

interface TypedRange {
  picked: number
  from?: string
  to?: string
  source?: string
}

function NewRange({ view, change }: { view: JobView; change: ReturnType<typeof useChangeJob> }) {
  const offered = probes(view)
  const [form] = Form.useForm<TypedRange>()
  const typed = Form.useWatch([], form) as TypedRange | undefined
  const complete = offered.length > 0 && typed?.source?.trim() && (typed.from?.trim() || typed.to?.trim())
  const add = ({ picked, from, to, source }: TypedRange) => {
    const probe = offered[picked]?.probe
    if (!probe) return
    const spec = { ...probe, range: [from?.trim() || null, to?.trim() || null], source: source?.trim() } as Spec
    change.mutate((now) => ({ specs: [...(now.case.specs ?? []), spec] }), {
      onSuccess: () => form.resetFields(['from', 'to']),
    })
  }
  return (
    <Form<TypedRange> form={form} className="spec-new" initialValues={{ picked: 0 }} onFinish={add}>
      <div className="pair">
        <span>For the reading</span>
        <Form.Item name="picked" noStyle>
          <Select
            aria-label="For the reading"
            options={offered.map((item, index) => ({ value: index, label: item.label }))}
          />
        </Form.Item>
      </div>
      <div className="pair">
        <span>From and to, with the unit</span>
        <span className="ends">
          <Form.Item name="from" noStyle>
            <Input className="figure" aria-label="Range, from" />
          </Form.Item>
          <Form.Item name="to" noStyle>
            <Input className="figure" aria-label="Range, to" />
          </Form.Item>
        </span>
      </div>
      <label className="pair">
        Where it comes from
        <Form.Item name="source" noStyle>
          <Input maxLength={300} />
        </Form.Item>
      </label>
      <Button type="primary" htmlType="submit" disabled={!complete}>
        Add the range
      </Button>
    </Form>
  )
}

/** Readings a range can be given for: those taken, the proposed one and its alternatives; each once. */
function probes(view: JobView): { label: string; probe: Record<string, unknown> }[] {
  const taken = view.case.readings.map((reading, place) => ({
    probe: reading,
    words: view.ledger[place],
  }))
  const ahead = [view.verdict.next, ...view.verdict.alternatives].map((item, index) => ({
    probe: item?.reading, words: index === 0 ? view.next_words : view.alternative_words[index - 1],
  })) // prettier-ignore
  const found = new Map<string, Record<string, unknown>>()
  for (const { probe, words } of [...taken, ...ahead]) {
    if (!probe || !words || !WITH_RANGE.includes(probe.measure)) continue
    const label = words.step
    if (!found.has(label)) found.set(label, bare(probe))
  }
  return [...found].map(([label, probe]) => ({ label, probe }))
}

const OF_A_READING = ['value', 'note', 'taken', 'struck']

function bare(probe: Probe): Record<string, unknown> {
  return Object.fromEntries(
    Object.entries(probe).filter(([name, value]) => value !== null && !OF_A_READING.includes(name)),
  )
}

function pointsOf(view: JobView, spec: Spec): string {
  const words = (id: string) => view.drawing.points.find((point) => point.id === id)?.words ?? id
  if ('red' in spec) return `${words(spec.red)} to ${words(spec.black)}`
  if ('at' in spec) return words(spec.at)
  return say(spec.pid)
}
