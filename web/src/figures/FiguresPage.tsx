import { Link, useParams } from 'react-router'
import { useChangeJob, useJob } from '../api/jobs'
import { Corner } from '../shared/Corner'
import { OwnRanges } from './OwnRanges'
import { Problem } from '../shared/Problem'
import { Wiring } from './Wiring'
import { Writers } from '../people/Writers'

/** What the service data of this vehicle says of the sensor: it wins over every general figure, everywhere. */
export function FiguresPage() {
  const id = Number(useParams()['id'])
  const job = useJob(id)
  const change = useChangeJob(id)
  const view = job.data
  if (!view && job.error) return <Problem error={job.error} />
  if (!view) return <p className="muted waiting">Fetching the job…</p>
  return (
    <main className="figures-page">
      <header className="bench-head">
        <Link to={`/jobs/${id}`} className="quiet">
          ← Workbench
        </Link>
        <h1>
          Figures of {view.where} · {view.case.vehicle.label}
        </h1>
        {change.isPending && (
          <span className="muted" role="status">
            Keeping it…
          </span>
        )}
        {change.isSuccess && (
          <span className="saved" role="status">
            Kept: every reading is judged anew
          </span>
        )}
        <Corner />
      </header>
      <Writers>
        <Wiring
          view={view}
          error={change.error}
          onChange={(part) => change.mutate(part)}
          onEdit={() => change.reset()}
        />
        <OwnRanges view={view} />
      </Writers>
    </main>
  )
}
