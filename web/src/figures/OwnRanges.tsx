import { Button, Input, Select } from 'antd'
import { type SubmitEvent, useState } from 'react'
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
  const offered = probes(view)
  const [picked, setPicked] = useState(0)
  const [range, setRange] = useState<[string, string]>(['', ''])
  const [source, setSource] = useState('')
  const add = (event: SubmitEvent) => {
    event.preventDefault()
    const probe = offered[picked]?.probe
    if (!probe) return
    const ends = range.map((text) => text.trim() || null)
    change.mutate(
      (now) => ({ specs: [...(now.case.specs ?? []), { ...probe, range: ends, source: source.trim() } as Spec] }),
      { onSuccess: () => setRange(['', '']) },
    )
  }
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
          <Button
            onClick={() =>
              change.mutate((now) => ({
                specs: (now.case.specs ?? []).filter((item) => JSON.stringify(item) !== JSON.stringify(spec)),
              }))
            }
          >
            Remove
          </Button>
        </div>
      ))}
      <form className="spec-new" onSubmit={add}>
        <div className="pair">
          <span>For the reading</span>
          <Select
            aria-label="For the reading"
            value={offered.length ? picked : undefined}
            onChange={setPicked}
            options={offered.map((item, index) => ({ value: index, label: item.label }))}
          />
        </div>
        <div className="pair">
          <span>From and to, with the unit</span>
          <span className="ends">
            <Input
              className="figure"
              value={range[0]}
              aria-label="Range, from"
              onChange={(event) => setRange([event.target.value, range[1]])}
            />
            <Input
              className="figure"
              value={range[1]}
              aria-label="Range, to"
              onChange={(event) => setRange([range[0], event.target.value])}
            />
          </span>
        </div>
        <label className="pair">
          Where it comes from
          <Input value={source} maxLength={300} onChange={(event) => setSource(event.target.value)} />
        </label>
        <Button
          type="primary"
          htmlType="submit"
          disabled={offered.length === 0 || source.trim() === '' || (range[0].trim() === '' && range[1].trim() === '')}
        >
          Add the range
        </Button>
      </form>
      {change.error && <Problem error={change.error} />}
    </section>
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
