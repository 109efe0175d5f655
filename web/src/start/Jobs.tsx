import { Button, Input, Segmented, Table, type TableColumnsType } from 'antd'
import { useDeferredValue, useState } from 'react'
import { Link, useNavigate } from 'react-router'
import type { JobSummary } from '../api/client'
import { type JobsAsked, useArchive, useJobs } from '../api/jobs'
import { useReads } from '../people/Writers'
import { Problem } from '../shared/Problem'
import { when } from '../shared/when'

type Which = JobsAsked['which']
const LISTS: { value: Which; label: string }[] = [
  { value: 'all', label: 'All' },
  { value: 'new', label: 'To be measured' },
  { value: 'testing', label: 'On the bench' },
  { value: 'decided', label: 'Decided' },
  { value: 'mended', label: 'To be proven' },
  { value: 'over', label: 'Proven' },
  { value: 'archived', label: 'Put away' },
]
/** Lines of a page. */
const SIZE = 8
const FIRST: Omit<JobsAsked, 'words'> = { which: 'all', page: 1, size: SIZE, order: 'newest' }

type Sorter = { columnKey?: unknown; order?: 'ascend' | 'descend' | null }

function orderOf(sorter: Sorter | Sorter[]): JobsAsked['order'] {
  const { columnKey, order } = Array.isArray(sorter) ? {} : sorter
  if (columnKey === 'vehicle' && order) return 'vehicle'
  return columnKey === 'touched' && order === 'ascend' ? 'oldest' : 'newest'
}

/** All jobs, a page at a time: searched as one types, by code, vehicle, title or place. */
export function Jobs() {
  const [typed, setTyped] = useState('')
  const [asked, setAsked] = useState(FIRST)
  const words = useDeferredValue(typed.trim())
  const answer = useJobs({ ...asked, words })
  const find = (text: string) => {
    setTyped(text)
    setAsked({ ...asked, page: 1 })
  }
  const counts = answer.data?.counts ?? {}
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
        <Segmented<Which>
          aria-label="Which jobs"
          value={asked.which}
          onChange={(which) => setAsked({ ...asked, which, page: 1 })}
          options={LISTS.map(({ value, label }) => ({ value, label: `${label} ${counts[value] ?? ''}` }))}
        />
      </div>
      {answer.error && <Problem error={answer.error} />}
      <JobsTable
        answer={answer}
        page={asked.page}
        onPage={(part) => setAsked({ ...asked, ...part })}
        onVehicle={find}
      />
    </section>
  )
}

function JobsTable(props: {
  answer: ReturnType<typeof useJobs>
  page: number
  onPage: (part: Pick<JobsAsked, 'page' | 'order'>) => void
  onVehicle: (vehicle: string) => void
}) {
  const { answer, page, onPage, onVehicle } = props
  const navigate = useNavigate()
  const archive = useArchive()
  const reads = useReads()
  const counts = answer.data?.counts ?? {}
  const some = counts['all'] || counts['archived']
  const emptyText = some
    ? 'No job like this.'
    : 'No jobs yet. Type the code that the scan tool shows, name the vehicle, and start.'
  const total = answer.data?.total ?? 0
  return (
    <>
      {archive.error && <Problem error={archive.error} />}
      <Table<JobSummary>
        size="middle"
        rowKey="id"
        dataSource={answer.data?.jobs ?? []}
        loading={answer.isPending}
        tableLayout="fixed"
        locale={{ emptyText }}
        pagination={{ current: page, pageSize: SIZE, total, hideOnSinglePage: true, showSizeChanger: false }}
        onChange={({ current }, _, sorter) => onPage({ page: current ?? 1, order: orderOf(sorter) })}
        onRow={(job) => ({ onClick: () => void navigate(`/jobs/${job.id}`), className: 'job-row' })}
        columns={[...columnsOf(onVehicle), ...(reads ? [] : [putAway((job) => archive.mutate(job))])]}
      />
    </>
  )
}

const columnsOf = (onVehicle: (vehicle: string) => void): TableColumnsType<JobSummary> => [
  { title: 'Codes', width: 128, render: (_, job) => <Codes job={job} /> },
  {
    title: <span>Vehicle</span>,
    key: 'vehicle',
    sorter: true,
    sortDirections: ['ascend'],
    render: (_, job) => <Named job={job} onVehicle={onVehicle} />,
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
]

const putAway = (onPut: (job: { id: number; archived: boolean }) => void): TableColumnsType<JobSummary>[number] => ({
  title: 'Put away',
  width: 112,
  render: (_, job) => (
    <Button
      size="small"
      onClick={(event) => {
        event.stopPropagation()
        onPut({ id: job.id, archived: !job.archived })
      }}
    >
      {job.archived ? 'Take back' : 'Put away'}
    </Button>
  ),
})

function Codes({ job }: { job: JobSummary }) {
  return (
    <Link to={`/jobs/${job.id}`} className="figure job-codes" onClick={(event) => event.stopPropagation()}>
      {job.codes.join(' ') || 'by hand'}
    </Link>
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
      {job.simulated && <span className="simulated">simulated</span>}
      {job.title && <span className="muted job-title">{job.title}</span>}
    </>
  )
}
