import { Link } from 'react-router'
import type { JobView } from '../api/client'
import { Corner } from '../shared/Corner'
import { JobProgress } from '../shared/JobProgress'
import { Intake } from './Intake'

/** The bench's head: which job it is, where it stands, and the ways from here. */
export function BenchHead({ view }: { view: JobView }) {
  return (
    <header className="bench-head">
      <Link to="/" className="quiet" aria-label="All jobs">
        ← Jobs
      </Link>
      <h1>
        <span className="figure">{view.case.codes.map((item) => item.code).join(' ')}</span> {view.case.vehicle.label}
        <span className="where">{view.where}</span>
      </h1>
      <JobProgress view={view} />
      <Intake view={view} />
      <Link to={`/jobs/${view.id}/mend`} className="quiet">
        Mend
      </Link>
      <Link to={`/jobs/${view.id}/sheet`} className="quiet">
        Sheet
      </Link>
      <Corner />
    </header>
  )
}
