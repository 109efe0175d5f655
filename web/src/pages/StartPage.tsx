import { Button, Input } from 'antd'
import { type FormEvent, useState } from 'react'
import { Link, useLocation, useNavigate } from 'react-router'
import type { JobSummary, Schemas } from '../api/client'
import { useJobs, useNewJob, useVehicles } from '../api/jobs'
import { CaseFile } from '../parts/CaseFile'
import { LightSwitch } from '../parts/LightSwitch'
import { Problem } from '../parts/Problem'

const STAGES: [string, string][] = [
  ['new', 'To be measured'],
  ['testing', 'On the bench'],
  ['decided', 'Decided'],
]

export function StartPage() {
  const jobs = useJobs()
  return (
    <main className="start">
      <header className="start-head">
        <h1>Dianoia</h1>
        <p>From the sensor code to the part at fault, with the evidence.</p>
        <Link to="/workshop" className="quiet">
          Workshop
        </Link>
        <Link to="/sums" className="quiet">
          Quick sums
        </Link>
        <Link to="/codes" className="quiet">
          Code book
        </Link>
        <LightSwitch />
      </header>
      <NewJob />
      {jobs.error && <Problem error={jobs.error} />}
      {jobs.isPending && <p className="muted">Fetching the jobs…</p>}
      <div className="stages">
        {STAGES.map(([stage, label]) => (
          <Stage key={stage} label={label} jobs={(jobs.data ?? []).filter((job) => job.stage === stage)} />
        ))}
      </div>
    </main>
  )
}

function NewJob() {
  const navigate = useNavigate()
  const create = useNewJob()
  const typed = (useLocation().state as { typed?: string } | null)?.typed ?? ''
  const [codes, setCodes] = useState(typed)
  const [vehicle, setVehicle] = useState('')
  const known = useVehicles()
  const submit = (event: FormEvent) => {
    event.preventDefault()
    create.mutate(
      { codes, ...fromKnown(known.data ?? [], vehicle.trim()), title: '', style: 'live-first' },
      { onSuccess: (view) => void navigate(`/jobs/${view.id}`) },
    )
  }
  return (
    <form className="new-job" onSubmit={submit} aria-label="New job">
      <label className="field code-field">
        <span>Type the code, or all that the scan tool lists</span>
        <Input
          autoFocus
          size="large"
          className="figure"
          value={codes}
          onChange={(event) => setCodes(event.target.value)}
          placeholder="P0057"
          name="codes"
        />
      </label>
      <label className="field">
        <span>Vehicle</span>
        <Input size="large" value={vehicle} onChange={(event) => setVehicle(event.target.value)} placeholder="Which one is it?" name="vehicle" list="known-vehicles" />
        <datalist id="known-vehicles">
          {known.data?.map((item) => <option key={item.vehicle.label} value={item.vehicle.label} />)}
        </datalist>
      </label>
      <Button type="primary" size="large" htmlType="submit" loading={create.isPending}>
        Start the job
      </Button>
      {create.error && <Problem error={create.error} />}
      <div className="recent" role="group" aria-label="Other ways to start">
        {(known.data ?? []).length > 0 && <span className="muted">Seen lately:</span>}
        {known.data?.slice(0, 5).map((item) => (
          <button key={item.vehicle.label} type="button" className="quiet" aria-pressed={vehicle === item.vehicle.label} onClick={() => setVehicle(item.vehicle.label)}>
            {item.vehicle.label}
          </button>
        ))}
        <CaseFile />
      </div>
    </form>
  )
}

/** A vehicle seen before brings its layout, its sensor's figures and its pins; another is only a name. */
function fromKnown(known: Schemas['KnownVehicle'][], label: string): Pick<Schemas['NewJob'], 'vehicle' | 'sensor'> {
  const match = known.find((item) => item.vehicle.label === label)
  if (!match) return { vehicle: { label: label || 'Vehicle not named yet' } }
  const sensor = match.sensor && { ...match.sensor, bank: null, position: null }
  return { vehicle: match.vehicle, ...(sensor ? { sensor } : {}) }
}

function Stage({ label, jobs }: { label: string; jobs: JobSummary[] }) {
  return (
    <section className="stage" aria-label={label}>
      <h2>
        {label} <span className="count">{jobs.length}</span>
      </h2>
      {jobs.length === 0 && <p className="muted">None.</p>}
      {jobs.map((job) => (
        <Link key={job.id} to={`/jobs/${job.id}`} className="job-card">
          <span className="job-codes figure">{job.codes.join(' ')}</span>
          <strong>{job.vehicle}</strong>
          {job.title && <span>{job.title}</span>}
          <span className="muted">{job.where}</span>
          <span className="job-waits">
            {job.decision === 'keep-testing' ? `Next → ${job.waits_for}` : job.decided}
          </span>
        </Link>
      ))}
    </section>
  )
}
