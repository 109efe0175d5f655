import { Link, useParams } from 'react-router'
import { useJob } from '../api/jobs'
import { Corner } from '../shared/Corner'
import { PinTable } from './PinTable'
import { PlugFace } from './PlugFace'
import { Problem } from '../shared/Problem'
import { VehicleForm } from '../shared/VehicleForm'
import { VehiclePlan } from './VehiclePlan'
import { Writers } from '../people/Writers'

/** Where the sensor and its plug are on this vehicle. */
export function PlacePage() {
  const id = Number(useParams()['id'])
  const job = useJob(id)
  if (job.error && !job.data) return <Problem error={job.error} />
  const view = job.data
  if (!view) return <p className="muted waiting">Fetching the job…</p>
  return (
    <main className="place-page">
      <header className="bench-head">
        <Link to={`/jobs/${id}`} className="quiet">
          ← Workbench
        </Link>
        <h1>Where it sits · {view.case.vehicle.label}</h1>
        <Corner />
      </header>
      <section className="place-plan" aria-label="The vehicle from above">
        <VehiclePlan plan={view.plan} />
      </section>
      <section className="place-words" aria-label="In words">
        <h2>{view.where}</h2>
        <p className="place-said">{view.place}</p>
        <p className="muted">Left and right are as seated in the vehicle, facing forward.</p>
        {view.plan.questions.map((question) => (
          <div key={question.field} className="question">
            <strong>{question.ask}</strong>
            <p>{question.how}</p>
          </div>
        ))}
        <Writers>
          <VehicleForm view={view} />
        </Writers>
      </section>
      <section className="place-plug" aria-label="Plug and pins">
        <h2>The plug</h2>
        <PlugFace plug={view.plug} />
        <h3>Pins and wire colours of this vehicle</h3>
        <Writers>
          <PinTable key={JSON.stringify(view.case.sensor?.pins ?? {})} view={view} />
        </Writers>
      </section>
    </main>
  )
}
