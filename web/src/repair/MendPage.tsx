import { Empty } from 'antd'
import { Link, useNavigate, useParams } from 'react-router'
import type { JobView, Reading } from '../api/client'
import { useAddReading, useJob } from '../api/jobs'
import { Boundary } from '../shared/Boundary'
import { Corner } from '../shared/Corner'
import { NoteRepair } from './NoteRepair'
import { Problem } from '../shared/Problem'
import { BeforeFitting } from '../shared/Gate'
import { HandOver, Proof } from './Proof'
import { RepairSteps } from './RepairSteps'
import { JobProgress } from '../shared/JobProgress'
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
  const add = useAddReading(
    view.id,
    () => undefined,
    () => undefined,
  )
  const { repair } = view.verdict
  const act = (reading: Reading) => add.mutate(reading)
  return (
    <main className="repair-page">
      <header className="bench-head">
        <Link to={`/jobs/${view.id}`} className="quiet">
          ← Workbench
        </Link>
        <h1>
          <span className="figure">{view.case.codes.map((item) => item.code).join(' ')}</span> {view.case.vehicle.label}
          <span className="where">{view.where}</span>
        </h1>
        <JobProgress view={view} />
        <Corner />
      </header>
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
          <section className="decision" role="status">
            <h2>{view.told.title}</h2>
            <p>{view.verdict.says}</p>
            {view.behind === 'working' && <p className="working">Working out what follows…</p>}
          </section>
          <BeforeFitting view={view} onPick={(probe) => void navigate(`/jobs/${view.id}`, { state: { probe } })} />
          {repair.done.map((item) => (
            <p key={item.reading} className="did">
              <strong>{item.says}</strong>
              {item.part && (
                <>
                  {' '}
                  <span className="figure">{item.part}</span>
                </>
              )}
              <span className="muted gate-says">
                {[
                  item.early
                    ? `before the decision stood${item.unproven.length ? `; not shown then: ${item.unproven.join('; ')}` : ''}`
                    : item.found_by.length
                      ? `found by reading ${item.found_by.map((place) => place + 1).join(', ')}`
                      : '',
                  item.reason,
                ]
                  .filter(Boolean)
                  .join('. ')}
              </span>
            </p>
          ))}
          {repair.state === 'none' || repair.state === 'came-back' || view.verdict.components.length > 0 ? (
            <Writers>
              <NoteRepair view={view} onAct={act} primary={view.verdict.components.length > 0} />
            </Writers>
          ) : null}
          {repair.proof.length > 0 && (
            <>
              <h3>
                Proof: {repair.proof.filter((item) => item.by !== null && item.by !== undefined).length} of{' '}
                {repair.proof.length}
              </h3>
              <Proof view={view} onTake={(probe) => void navigate(`/jobs/${view.id}`, { state: { probe } })} />
              <p className="muted">
                Clearing codes also erases freeze frames and sets all monitors back: note them before.{' '}
                {repair.inspection}
              </p>
            </>
          )}
          {repair.may_come.length > 0 && (
            <>
              <h3>What may come next</h3>
              <ul>
                {repair.may_come.map((item) => (
                  <li key={item.says}>
                    {item.says} <span className="muted">{item.why}</span>
                  </li>
                ))}
              </ul>
            </>
          )}
          <Writers>
            <WorkedTime view={view} />
            <HandOver view={view} onAct={act} />
          </Writers>
          {repair.returns > 0 && (
            <p className="muted">
              Came back {repair.returns === 1 ? 'once' : `${repair.returns} times`} after a repair.
            </p>
          )}
        </aside>
      </div>
    </main>
  )
}
