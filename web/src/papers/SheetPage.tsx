import { Button } from 'antd'
import { Link, useParams } from 'react-router'
import type { JobView } from '../api/client'
import { when } from '../shared/when'
import { useJob } from '../api/jobs'
import { EMPTY } from '../bench/draft'
import { CircuitBoard } from '../bench/CircuitBoard'
import { AfterRepair, BeforeFitting, Gate } from '../shared/Gate'
import { GuideLink } from '../guide/GuideLink'
import { Problem } from '../shared/Problem'
import { judgement } from '../shared/vocabulary'

/** The decision with its evidence on one sheet, to show and to print. */
export function SheetPage() {
  const id = Number(useParams()['id'])
  const job = useJob(id)
  if (job.error && !job.data) return <Problem error={job.error} />
  if (!job.data) return <p className="muted waiting">Fetching the job…</p>
  return <Sheet view={job.data} />
}

function Sheet({ view }: { view: JobView }) {
  const { verdict } = view
  return (
    <main className="sheet">
      <nav className="sheet-tools">
        <Link to={`/jobs/${view.id}`} className="quiet">
          ← Workbench
        </Link>
        <Button onClick={() => window.print()}>Print</Button>
        <a className="quiet" href={`/api/jobs/${view.id}/case`} download={`job-${view.id}.json`}>
          Save as a case file
        </a>
        <GuideLink />
      </nav>
      <header>
        <h1>{view.told.title}</h1>
        <p className="sheet-says">{verdict.says}</p>
        <p>
          <span className="figure">{view.case.codes.map((code) => code.code).join(' ')}</span> ·{' '}
          {view.case.vehicle.label} · {view.where}
        </p>
      </header>
      {view.how_sure ? <Standing view={view} /> : <Repaired view={view} />}
      <section aria-label="Before it is fitted">
        <BeforeFitting view={view} />
      </section>
      {verdict.after_repair.length > 0 && (
        <section aria-label="After the repair">
          <h2>Read after the repair</h2>
          <AfterRepair view={view} />
        </section>
      )}
      <section className="sheet-board" aria-label="The circuit as proven" tabIndex={0}>
        <CircuitBoard view={view} draft={{ ...EMPTY, measure: 'inspect' }} shown={null} />
      </section>
      <section aria-label="Evidence for">
        {view.how_sure && (
          <>
            <h2>Evidence for it</h2>
            <Lines lines={verdict.because} none="No reading points to it yet." />
          </>
        )}
        <h2>Evidence against, or unclear</h2>
        <Lines lines={view.still_open} none="Nothing that would matter." />
        {view.how_sure && (
          <>
            <h2>What would change it</h2>
            <Lines lines={verdict.would_change_it} none="No reading left would." />
          </>
        )}
      </section>
      <section className="sheet-ledger" aria-label="Readings">
        <h2>Readings</h2>
        <table>
          <thead>
            <tr>
              <th>#</th>
              <th>Reading</th>
              <th>Where and how</th>
              <th>Expected</th>
              <th>Judged</th>
              <th>By</th>
            </tr>
          </thead>
          <tbody>
            {view.ledger.map((line, place) => {
              const judged = verdict.judged[place]
              const struck = view.case.readings[place]?.struck
              return (
                <tr key={place} className={struck ? 'struck' : ''}>
                  <td>{place + 1}</td>
                  <td className="figure">{line.value}</td>
                  <td>
                    {line.state ? `${line.where}; ${line.state}` : line.where}
                    {struck ? ` (struck: ${struck})` : ''}
                  </td>
                  <td className="figure">{judged?.expected}</td>
                  <td>
                    {struck || !judged ? '—' : `${judgement(judged.result).mark} ${judgement(judged.result).word}`}
                  </td>
                  <td>{[view.written[place]?.by, at(view.case.readings[place]?.taken)].filter(Boolean).join(', ')}</td>
                </tr>
              )
            })}
          </tbody>
        </table>
        <p className="muted">
          Ledger: {view.entries} entries. Newest: <span className="figure seal">{view.seal}</span>
        </p>
        <p className="muted">Emission parts are regulated: local rules and licensed practice come first.</p>
      </section>
    </main>
  )
}

/** What stands now: how sure, what it costs to act, what has to be shown. */
function Standing({ view }: { view: JobView }) {
  const { verdict } = view
  return (
    <>
      <section aria-label="Confidence">
        <h2>How sure</h2>
        <p>{view.how_sure}</p>
        <p>{verdict.acting_now}</p>
        <p className="muted">{view.told.cost}</p>
      </section>
      <section aria-label="What has to be shown">
        <h2>{verdict.decision === 'keep-testing' ? 'Before it can be decided' : 'What was shown first'}</h2>
        <Gate rows={verdict.gate} />
      </section>
    </>
  )
}

/** What was decided and when, then what was done about it, then its proof. */
function Repaired({ view }: { view: JobView }) {
  const { repair } = view.verdict
  const moment = (place: number) => at(view.case.readings[place]?.taken ?? view.written[place]?.at)
  return (
    <>
      {repair.decided.map((item) => (
        <section key={item.reading} aria-label="What was decided">
          <h2>
            Decided {moment(item.reading)}, on {item.readings} {item.readings === 1 ? 'reading' : 'readings'}
          </h2>
          <p>
            {item.says} {item.how_sure}
          </p>
          <Lines lines={item.because} none="" />
        </section>
      ))}
      <section aria-label="What was done">
        <h2>Done</h2>
        <Lines
          none=""
          lines={repair.done.map((item) =>
            [
              item.says,
              item.part && `part ${item.part}`,
              moment(item.reading),
              item.early && 'fitted before the fault was proven',
              item.reason,
            ]
              .filter(Boolean)
              .join(', '),
          )}
        />
      </section>
      <section aria-label="Proof of the repair">
        <h2>Proof</h2>
        <Lines
          none=""
          lines={repair.proof.map(
            (item) =>
              `${item.by === null || item.by === undefined ? '○' : '✓'} ${item.what}: ${item.expect}${item.by === null || item.by === undefined ? '' : `, reading ${item.by + 1}`}`,
          )}
        />
      </section>
    </>
  )
}

/** A moment as it is written on paper; what is none stands as it is. */
function at(taken: string | null | undefined): string {
  const time = taken ? new Date(taken) : null
  return !time ? '' : Number.isNaN(time.getTime()) ? String(taken) : when(time)
}

function Lines({ lines, none }: { lines: readonly string[]; none: string }) {
  if (lines.length === 0) return <p className="muted">{none}</p>
  return (
    <ul>
      {lines.map((line, place) => (
        <li key={place}>{line}</li>
      ))}
    </ul>
  )
}
