import { Empty } from 'antd'
import { Link, useNavigate, useParams } from 'react-router'
import type { JobView, Probe, Reading } from '../api/client'
import { useAddReading } from '../api/readings'
import { useJob } from '../api/jobs'
import { Boundary } from '../shared/Boundary'
import { Corner } from '../shared/Corner'
import { NoteRepair } from './NoteRepair'
import { Problem } from '../shared/Problem'
import { BeforeFitting } from '../shared/Gate'
import { HandOver } from './HandOver'
import { Proof } from './Proof'
import { RepairSteps } from './RepairSteps'
import { JobProgress } from '../shared/JobProgress'
import { JobTitle } from '../shared/JobTitle'
import { Writers } from '../people/Writers'
import { WorkedTime } from './WorkedTime'

/** From the decision to the vehicle handed over: how it is mended, what was done, what proves it. */
export function MendPage() {
  const id = Number(useParams()['id'])
  const job = useJob(id)
  if (job.error && !job.data) return <Problem error={job.error} />
  if (!job.data) return <p className="muted waiting">Fetching the job…</p>
  return <Mend view={job.data} />
}

function Mend({ view }: { view: JobView }) {
  const navigate = useNavigate()
  const nothing = () => undefined
  const add = useAddReading(view.id, nothing, nothing)
  const act = (reading: Reading) => add.mutate(reading)
  const toBench = (probe: Probe) => void navigate(`/jobs/${view.id}`, { state: { probe } })
  return (
    <main className="repair-page">
      <Head view={view} />
      {add.error && <Problem error={add.error} />}
      <div className="repair-columns">
        <div className="repair-steps">
          <Boundary what="The repair sheet" at={view}>
            {view.sheets.length ? (
              <Writers>
                <RepairSteps view={view} />
              </Writers>
            ) : (
              <Empty description="No repair before a decision. The workbench says what is still to be shown; who fits the part all the same notes why." />
            )}
          </Boundary>
        </div>
        <aside className="repair-proof" aria-busy={view.behind === 'working'}>
          <Decision view={view} />
          <BeforeFitting view={view} onPick={toBench} />
          <Done view={view} onAct={act} />
          <ProofOfIt view={view} onTake={toBench} />
          <MayCome view={view} />
          <Writers>
            <WorkedTime view={view} />
            <HandOver view={view} onAct={act} />
          </Writers>
          <Returns count={view.verdict.repair.returns} />
        </aside>
      </div>
    </main>
  )
}

function Head({ view }: { view: JobView }) {
  return (
    <header className="bench-head">
      <Link to={`/jobs/${view.id}`} className="quiet">
        ← Workbench
      </Link>
      <JobTitle view={view} />
      <JobProgress view={view} />
      <Corner />
    </header>
  )
}

function Decision({ view }: { view: JobView }) {
  return (
    <section className="decision" role="status">
      <h2>{view.summary.title}</h2>
      <p>{view.verdict.says}</p>
      {view.behind === 'working' && <p className="working">Working out what follows…</p>}
    </section>
  )
}

type DoneItem = JobView['verdict']['repair']['done'][number]

/** What was mended so far, and the way to note more. */
function Done({ view, onAct }: { view: JobView; onAct: (reading: Reading) => void }) {
  const { repair, components } = view.verdict
  const found = components.length > 0
  return (
    <>
      {repair.done.map((item) => (
        <p key={item.reading} className="did">
          <strong>{item.says}</strong>
          {item.part && <span className="figure"> {item.part}</span>}
          <span className="muted gate-says">{[groundsOf(item), item.reason].filter(Boolean).join('. ')}</span>
        </p>
      ))}
      {(repair.state === 'none' || repair.state === 'came-back' || found) && (
        <Writers>
          <NoteRepair view={view} onAct={onAct} primary={found} />
        </Writers>
      )}
    </>
  )
}

/** What a repair rested on. */
function groundsOf(item: DoneItem): string {
  if (!item.early) return item.found_by.length ? `found by reading ${item.found_by.map((at) => at + 1).join(', ')}` : ''
  const missing = item.unproven.length ? `; not shown then: ${item.unproven.join('; ')}` : ''
  return `before the decision stood${missing}`
}

function ProofOfIt({ view, onTake }: { view: JobView; onTake: (probe: Probe) => void }) {
  const { proof, inspection } = view.verdict.repair
  if (proof.length === 0) return null
  const shown = proof.filter((item) => item.by !== null && item.by !== undefined).length
  return (
    <>
      <h3>
        Proof: {shown} of {proof.length}
      </h3>
      <Proof view={view} onTake={onTake} />
      <p className="muted">
        Clearing codes also erases freeze frames and sets all monitors back: note them before. {inspection}
      </p>
    </>
  )
}

function MayCome({ view }: { view: JobView }) {
  const { may_come } = view.verdict.repair
  if (may_come.length === 0) return null
  return (
    <>
      <h3>What may come next</h3>
      <ul>
        {may_come.map((item) => (
          <li key={item.says}>
            {item.says} <span className="muted">{item.why}</span>
          </li>
        ))}
      </ul>
    </>
  )
}

function Returns({ count }: { count: number }) {
  if (count === 0) return null
  return <p className="muted">Came back {count === 1 ? 'once' : `${count} times`} after a repair.</p>
}
