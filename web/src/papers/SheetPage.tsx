import { Button } from 'antd'
import { Link, useParams } from 'react-router'
import type { JobView } from '../api/client'
import { useJob } from '../api/jobs'
import { CircuitBoard } from '../bench/CircuitBoard'
import { EMPTY } from '../bench/draft'
import { GuideLink } from '../guide/GuideLink'
import { AfterRepair, BeforeFitting } from '../shared/Gate'
import { Problem } from '../shared/Problem'
import { SaveCase } from './SaveCase'
import { SheetLedger } from './SheetLedger'
import { Evidence, Repaired, Standing } from './SheetParts'

/** The decision with its evidence on one sheet, to show and to print. */
export function SheetPage() {
  const id = Number(useParams()['id'])
  const job = useJob(id)
  if (job.error && !job.data) return <Problem error={job.error} />
  if (!job.data) return <p className="muted waiting">Fetching the job…</p>
  return <Sheet view={job.data} />
}

function Sheet({ view }: { view: JobView }) {
  return (
    <main className="sheet">
      <Tools view={view} />
      <header>
        <h1>{view.summary.title}</h1>
        <p className="sheet-says">{view.verdict.says}</p>
        <p>
          <span className="figure">{view.case.codes.map((code) => code.code).join(' ')}</span> ·{' '}
          {view.case.vehicle.label} · {view.where}
        </p>
      </header>
      {view.how_sure ? <Standing view={view} /> : <Repaired view={view} />}
      <section aria-label="Before it is fitted">
        <BeforeFitting view={view} />
      </section>
      {view.verdict.after_repair.length > 0 && (
        <section aria-label="After the repair">
          <h2>Read after the repair</h2>
          <AfterRepair view={view} />
        </section>
      )}
      <section className="sheet-board" aria-label="The circuit as proven" tabIndex={0}>
        <CircuitBoard view={view} draft={{ ...EMPTY, measure: 'inspect' }} shown={null} />
      </section>
      <Evidence view={view} />
      <SheetLedger view={view} />
    </main>
  )
}

function Tools({ view }: { view: JobView }) {
  const { id } = view
  return (
    <nav className="sheet-tools">
      <Link to={`/jobs/${id}`} className="quiet">
        ← Workbench
      </Link>
      <Button onClick={() => window.print()}>Print</Button>
      <SaveCase view={view} />
      <GuideLink />
    </nav>
  )
}
