import { Button, Empty, Select } from 'antd'
import { useState } from 'react'
import { Link, useParams } from 'react-router'
import { useJob } from '../api/jobs'
import {
  keptSamples,
  type Mark,
  type RecordingsPage as Page,
  type RecordingView,
  useCapture,
  useMarks,
  useRecordings,
} from '../api/recordings'
import { useWrites, Writers } from '../people/Writers'
import { Corner } from '../shared/Corner'
import { Problem } from '../shared/Problem'
import { when } from '../shared/when'
import { Drop } from './Drop'
import { Guided } from './Guided'
import { Incoming } from './Incoming'
import { Look } from './Look'
import type { Other } from './Plots'
import { told } from './view'
import './recordings.css'

/** What is looked at: a kept recording, a file that came in, or a recording that is being made. */
type Open = { kind: 'kept'; digest: string } | { kind: 'incoming'; name: string } | { kind: 'guided'; capture: string }

/** Recordings of a job: dropped, drawn, measured, marked. */
export function RecordingsPage() {
  const id = Number(useParams()['id'])
  const job = useJob(id)
  const recordings = useRecordings(id)
  const error = job.error ?? recordings.error
  if (error && !(job.data && recordings.data)) return <Problem error={error} />
  if (!job.data || !recordings.data) return <p className="muted waiting">Fetching the recordings…</p>
  return (
    <main className="recordings-page">
      <header className="bench-head">
        <Link to={`/jobs/${id}`} className="quiet">
          ← Workbench
        </Link>
        <h1>Curves · {job.data.case.vehicle.label}</h1>
        <Corner />
      </header>
      <Recordings id={id} page={recordings.data} sensors={job.data.plan.sensors.map((sensor) => sensor.address)} />
    </main>
  )
}

function Recordings({ id, page, sensors }: { id: number; page: Page; sensors: readonly string[] }) {
  const [open, setOpen] = useState<Open | null>(() => firstOf(page))
  const [marks, setMarks] = useState<Mark[]>([])
  const capture = useCapture(id)
  const arrived = (name: string) => setOpen({ kind: 'incoming', name })
  // what records by itself brings its own marks; those of a timer belong to the recording that ran beside it
  const record = (name: string) => {
    setMarks([])
    capture.mutate(name, { onSuccess: (made) => arrived(made.id) })
  }
  const back = () => {
    setMarks([])
    setOpen(firstOf(page))
  }
  const guide = (name: string) => {
    setMarks([])
    setOpen({ kind: 'guided', capture: name })
  }
  const kept = (next: Page) => {
    setMarks([])
    setOpen(lastOf(next))
  }
  const guided = open?.kind === 'guided' ? page.captures.find((item) => item.id === open.capture) : undefined
  return (
    <>
      <aside className="recordings-side">
        <KeptList page={page} open={open} onOpen={(digest) => setOpen({ kind: 'kept', digest })} />
        <Writers>
          <Drop id={id} onArrived={arrived} />
          <h2>Worth recording here</h2>
          {page.captures.map((item) => (
            <Button
              key={item.id}
              block
              type={open?.kind === 'guided' && open.capture === item.id ? 'primary' : 'default'}
              onClick={() => guide(item.id)}
            >
              {item.title}
            </Button>
          ))}
          {capture.error && <Problem error={capture.error} />}
        </Writers>
      </aside>
      <section className="recordings-main" aria-label="What is looked at">
        {open?.kind === 'incoming' && (
          <Incoming
            key={open.name}
            id={id}
            name={open.name}
            page={page}
            marks={marks}
            sensors={sensors}
            onKept={kept}
            onGivenUp={back}
          />
        )}
        {guided && (
          <Guided
            key={guided.id}
            capture={guided}
            choices={page.marks}
            marks={marks}
            onMarks={setMarks}
            onLeave={back}
            {...(page.simulated ? { onRecord: () => record(guided.id) } : {})}
            recording={capture.isPending}
          />
        )}
        {open?.kind === 'kept' && <Kept key={open.digest} id={id} page={page} digest={open.digest} />}
        {!open && (
          <Empty description="No recording yet. Drop a file of your scan tool or scope, or take one of those worth recording." />
        )}
      </section>
    </>
  )
}

const firstOf = (page: Page): Open | null => {
  const [first] = page.recordings
  return first ? { kind: 'kept', digest: first.noted.recording } : null
}

const lastOf = (page: Page): Open | null => {
  const last = page.recordings.at(-1)
  return last ? { kind: 'kept', digest: last.noted.recording } : null
}

const titleOf = (recording: RecordingView, place: number) => recording.noted.title || `Recording ${place + 1}`

function KeptList({ page, open, onOpen }: { page: Page; open: Open | null; onOpen: (digest: string) => void }) {
  if (page.recordings.length === 0) return null
  return (
    <ul className="kept-list" aria-label="Recordings of this job">
      {page.recordings.map((item, place) => (
        <li key={item.noted.recording}>
          <button
            type="button"
            aria-pressed={open?.kind === 'kept' && open.digest === item.noted.recording}
            onClick={() => onOpen(item.noted.recording)}
          >
            <strong>{titleOf(item, place)}</strong>
            <span className="muted">
              {told((item.noted.to_s ?? 0) - (item.noted.from_s ?? 0))}, {(item.noted.columns ?? []).length} signals
              {item.noted.instrument && ' · simulated'}
            </span>
            <span className="muted">
              {item.by} {when(item.at)}
            </span>
          </button>
        </li>
      ))}
    </ul>
  )
}

function Kept({ id, page, digest }: { id: number; page: Page; digest: string }) {
  const place = page.recordings.findIndex((item) => item.noted.recording === digest)
  const recording = page.recordings[place]
  const change = useMarks(id)
  const writes = useWrites()
  const [beside, setBeside] = useState('')
  if (!recording) return null
  const { shown, noted } = recording
  const title = titleOf(recording, place)
  if (!shown) {
    return (
      <div className="incoming">
        <h2>{title}</h2>
        <p>
          {noted.purged
            ? `The samples were removed: ${noted.purged}. The figures stay in the ledger.`
            : 'The samples are not on this server. The figures that came with the case file stand below.'}
        </p>
        <NotedFigures recording={recording} />
      </div>
    )
  }
  const others = page.recordings.filter((item) => item !== recording && item.shown)
  const marks = noted.marks ?? []
  return (
    <>
      <div className="kept-bar">
        <h2>{title}</h2>
        {noted.instrument && <span className="mark-simulated">simulated vehicle</span>}
        {others.length > 0 && (
          <Select
            aria-label="Lay another recording behind"
            value={beside}
            onChange={setBeside}
            options={[
              { value: '', label: 'nothing behind' },
              ...others.map((item) => ({
                value: item.noted.recording,
                label: `behind it: ${titleOf(item, page.recordings.indexOf(item))}`,
              })),
            ]}
          />
        )}
        <span className="kept-files">
          Save as{' '}
          {(['csv', 'parquet', 'json'] as const).map((kind) => (
            <a key={kind} href={`${keptSamples(id, digest)}.${kind}`} download>
              {kind.toUpperCase()}
            </a>
          ))}
        </span>
      </div>
      {change.error && <Problem error={change.error} />}
      <Look
        id={id}
        base={keptSamples(id, digest)}
        shown={shown}
        other={otherOf(
          id,
          recording,
          others.find((item) => item.noted.recording === beside),
        )}
        choices={page.marks}
        marks={marks}
        {...(writes ? { onMarks: (next: Mark[]) => change.mutate({ digest, marks: next }) } : {})}
      />
    </>
  )
}

/** The recording that is laid behind, moved so that both engines start together. */
function otherOf(id: number, own: RecordingView, other: RecordingView | undefined): Other | null {
  if (!other?.shown || !own.shown) return null
  const start = (item: RecordingView) => item.shown?.events.find((event) => event.event === 'start')?.at_s ?? 0
  return { base: keptSamples(id, other.noted.recording), shown: other.shown, shift: start(own) - start(other) }
}

/** Figures without samples, as the case file has them. */
function NotedFigures({ recording }: { recording: RecordingView }) {
  return (
    <ul className="noted-figures">
      {(recording.noted.columns ?? []).map((column) => (
        <li key={`${column.signal}${column.of ?? ''}`}>
          <strong>
            {column.of} {column.signal.replaceAll('_', ' ')}
          </strong>{' '}
          <span className="figure">
            {Object.entries(column.figures ?? {})
              .map(([name, value]) => `${name.replaceAll('_', ' ')} ${value} ${column.unit}`)
              .join(', ')}
          </span>
        </li>
      ))}
    </ul>
  )
}
