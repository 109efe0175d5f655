import { AutoComplete, Button, Input, Select, Segmented, Table } from 'antd'
import { type SubmitEvent, useDeferredValue, useState } from 'react'
import { Link, useLocation, useNavigate } from 'react-router'
import type { JobSummary, Schemas } from '../api/client'
import { type JobsAsked, useArchive, useDecoded, useJobs, useNewJob, useVehicles } from '../api/jobs'
import { NOX_SENSORS, placeOf, SENSORS } from '../shared/sensors'
import { when } from '../shared/when'
import { CaseFile } from './CaseFile'
import { Corner } from '../shared/Corner'
import { Problem } from '../shared/Problem'
import { useReads, Writers } from '../people/Writers'

type Shown = JobsAsked['which']
const SHOWN: [Shown, string][] = [['all', 'All'], ['new', 'To be measured'], ['testing', 'On the bench'], ['decided', 'Decided'], ['mended', 'To be proven'], ['over', 'Proven'], ['archived', 'Put away']] // prettier-ignore
/** Lines of a page. */
const SIZE = 8
type Sorter = { columnKey?: unknown; order?: 'ascend' | 'descend' | null }
const orderOf = ({ columnKey, order }: Sorter): JobsAsked['order'] =>
  columnKey === 'vehicle' && order ? 'vehicle' : columnKey === 'touched' && order === 'ascend' ? 'oldest' : 'newest'

export function StartPage() {
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
        <Corner />
      </header>
      <Writers>
        <NewJob />
      </Writers>
      <Jobs />
    </main>
  )
}

function NewJob() {
  const navigate = useNavigate()
  const create = useNewJob()
  const typed = (useLocation().state as { typed?: string } | null)?.typed ?? ''
  const [codes, setCodes] = useState(typed)
  const [vehicle, setVehicle] = useState('')
  const [byHand, setByHand] = useState<string>()
  const known = useVehicles()
  const asked = useDeferredValue(codes.trim())
  const decoded = useDecoded(asked)
  const said = asked.length >= 5 && !decoded.isError ? (decoded.data ?? []) : []
  const ofScr = said.some((code) => code.relation === 'scr') && !said.some((code) => code.sensors?.length)
  const submit = (event: SubmitEvent) => {
    event.preventDefault()
    create.mutate(
      { codes, ...begun(known.data ?? [], vehicle.trim(), byHand), title: '', style: 'live-first' },
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
        <AutoComplete
          size="large"
          aria-label="Vehicle"
          value={vehicle}
          onChange={setVehicle}
          placeholder="Which one is it?"
          showSearch={{
            filterOption: (text, option) => String(option?.value).toLowerCase().includes(text.toLowerCase()),
          }}
          options={(known.data ?? []).map((item) => ({ value: item.vehicle.label }))}
        />
      </label>
      <Button type="primary" size="large" htmlType="submit" loading={create.isPending}>
        Start the job
      </Button>
      {create.error && <Problem error={create.error} />}
      <Said codes={said} />
      <div className="recent" role="group" aria-label="Other ways to start">
        <span className="muted">No code that names it:</span>
        <Select
          aria-label="The sensor by hand"
          allowClear
          placeholder="choose the sensor"
          value={byHand}
          onChange={setByHand}
          options={ofScr ? NOX_SENSORS : SENSORS}
          className="by-hand"
          popupMatchSelectWidth={false}
        />
        <CaseFile />
      </div>
    </form>
  )
}

/** What the typed codes say and where their sensors sit, before the job is started. */
function Said({ codes }: { codes: Schemas['Decoded'][] }) {
  if (codes.length === 0) return null
  return (
    <ul className="plain typed-codes" aria-label="What the code says" aria-live="polite">
      {codes.slice(0, 4).map((code) => (
        <li key={code.code}>
          <strong className="figure">{code.code}</strong> <strong>{code.title}</strong>
          <span className="where">{whereOf(code)}</span>
          <span className="muted">{code.explains}</span>
        </li>
      ))}
      {codes.length > 4 && <li className="muted">and {codes.length - 4} more</li>}
    </ul>
  )
}

function whereOf(code: Schemas['Decoded']): string {
  const ofNox = NOX_SENSORS.find((item) => code.kind === 'nox' && item.value === `B${code.bank}S${code.position}`)
  if (ofNox) return ofNox.label
  if (code.bank && code.position) return `Bank ${code.bank} · sensor ${code.position}`
  if (code.sensors?.length) return code.sensors.join(', ')
  return 'It names no sensor: choose it below, or add the sensor’s own code.'
}

/** A vehicle seen before brings its layout, its sensor's figures and its pins; another is only a name. A sensor by hand wins. */
function begun(
  known: Schemas['KnownVehicle'][],
  label: string,
  byHand: string | undefined,
): Pick<Schemas['NewJob'], 'vehicle' | 'sensor'> {
  const match = known.find((item) => item.vehicle.label === label)
  const place = byHand ? placeOf(byHand) : { bank: null, position: null }
  const sensor = match?.sensor ? { ...match.sensor, ...place } : byHand ? (place as Schemas['Sensor']) : null
  return { vehicle: match?.vehicle ?? { label: label || 'Vehicle not named yet' }, ...(sensor ? { sensor } : {}) }
}

/** All jobs, a page at a time: searched as one types, by code, vehicle, title or place. */
function Jobs() {
  const navigate = useNavigate()
  const archive = useArchive()
  const reads = useReads()
  const [typed, setTyped] = useState('')
  const [asked, setAsked] = useState<Omit<JobsAsked, 'words'>>({ which: 'all', page: 1, size: SIZE, order: 'newest' })
  const words = useDeferredValue(typed.trim())
  const answer = useJobs({ ...asked, words })
  const counts = answer.data?.counts ?? {}
  const find = (text: string) => {
    setTyped(text)
    setAsked({ ...asked, page: 1 })
  }
  return (
    <section className="jobs" aria-label="Jobs">
      <div className="jobs-head">
        <Input.Search
          allowClear
          aria-label="Find a job"
          placeholder="Find: code, vehicle, words"
          value={typed}
          onChange={(event) => find(event.target.value)}
        />
        <Segmented<Shown>
          aria-label="Which jobs"
          value={asked.which}
          onChange={(which) => setAsked({ ...asked, which, page: 1 })}
          options={SHOWN.map(([value, label]) => ({ value, label: `${label} ${counts[value] ?? ''}` }))}
        />
      </div>
      {answer.error && <Problem error={answer.error} />}
      {archive.error && <Problem error={archive.error} />}
      <Table<JobSummary>
        size="middle"
        rowKey="id"
        dataSource={answer.data?.jobs ?? []}
        loading={answer.isPending}
        tableLayout="fixed"
        locale={{
          emptyText:
            counts['all'] || counts['archived']
              ? 'No job like this.'
              : 'No jobs yet. Type the code that the scan tool shows, name the vehicle, and start.',
        }}
        pagination={{
          current: asked.page,
          pageSize: SIZE,
          total: answer.data?.total ?? 0,
          hideOnSinglePage: true,
          showSizeChanger: false,
        }}
        onChange={({ current }, _, sorter) =>
          setAsked({ ...asked, page: current ?? 1, order: orderOf(Array.isArray(sorter) ? {} : sorter) })
        }
        onRow={(job) => ({ onClick: () => void navigate(`/jobs/${job.id}`), className: 'job-row' })}
        columns={[
          {
            title: 'Codes',
            width: 128,
            render: (_, job) => (
              <Link to={`/jobs/${job.id}`} className="figure job-codes" onClick={(event) => event.stopPropagation()}>
                {job.codes.join(' ') || 'by hand'}
              </Link>
            ),
          },
          {
            title: <span>Vehicle</span>,
            key: 'vehicle',
            sorter: true,
            sortDirections: ['ascend'],
            render: (_, job) => <Named job={job} onVehicle={find} />,
          },
          { title: 'Where', width: 200, responsive: ['lg'], render: (_, job) => job.where },
          {
            title: 'Waits for',
            responsive: ['md'],
            render: (_, job) => <strong>{job.decision === 'keep-testing' ? job.waits_for : job.decided}</strong>,
          },
          {
            title: <span>Touched</span>,
            key: 'touched',
            sorter: true,
            sortDirections: ['ascend'],
            width: 124,
            responsive: ['lg'],
            render: (_, job) => <time className="muted">{when(job.updated)}</time>,
          },
          ...(reads
            ? []
            : [
                {
                  title: 'Put away',
                  width: 112,
                  render: (_: unknown, job: JobSummary) => (
                    <Button
                      size="small"
                      onClick={(event) => {
                        event.stopPropagation()
                        archive.mutate({ id: job.id, archived: !job.archived })
                      }}
                    >
                      {job.archived ? 'Take back' : 'Put away'}
                    </Button>
                  ),
                },
              ]),
        ]}
      />
    </section>
  )
}

/** The vehicle, and with a touch all of its jobs. */
function Named({ job, onVehicle }: { job: JobSummary; onVehicle: (vehicle: string) => void }) {
  return (
    <>
      <Button
        type="link"
        size="small"
        className="job-vehicle"
        title="All jobs of this vehicle"
        onClick={(event) => {
          event.stopPropagation()
          onVehicle(job.vehicle)
        }}
      >
        {job.vehicle}
      </Button>
      {job.title && <span className="muted job-title">{job.title}</span>}
    </>
  )
}
