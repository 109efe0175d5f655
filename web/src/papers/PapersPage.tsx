import { Button, Segmented, Tabs } from 'antd'
import { useState } from 'react'
import { Link, useParams } from 'react-router'
import type { JobView } from '../api/client'
import { useJob } from '../api/jobs'
import { Corner } from '../shared/Corner'
import { Problem } from '../shared/Problem'
import { SaveCase } from './SaveCase'

const PAPERS = [
  { key: 'customer', label: 'For the customer', says: 'One page in plain words, to hand over with the vehicle.' },
  {
    key: 'file',
    label: 'For the file',
    says: 'Everything: readings with names and times, the proof, the figures used.',
  },
] as const

/** The papers as they will be printed: for the driver, and for the file. */
export function PapersPage() {
  const id = Number(useParams()['id'])
  const job = useJob(id)
  if (job.error && !job.data) return <Problem error={job.error} />
  if (!job.data) return <p className="muted waiting">Fetching the job…</p>
  return <Papers view={job.data} />
}

function Papers({ view }: { view: JobView }) {
  const [size, setSize] = useState<'a4' | 'letter' | ''>('')
  const asked = size ? `?size=${size}` : ''
  return (
    <main className="papers">
      <header className="start-head">
        <Link to={`/jobs/${view.id}/mend`} className="quiet">
          ← Repair
        </Link>
        <h1>Papers</h1>
        <p>
          <span className="figure">{view.case.codes.map((item) => item.code).join(' ')}</span> {view.case.vehicle.label}
        </p>
        <Segmented
          aria-label="Paper size"
          value={size}
          onChange={setSize}
          options={[
            { value: '', label: 'Workshop’s size' },
            { value: 'a4', label: 'A4' },
            { value: 'letter', label: 'Letter' },
          ]}
        />
        <Corner />
      </header>
      <Tabs
        items={PAPERS.map((paper) => ({
          key: paper.key,
          label: paper.label,
          children: (
            <section aria-label={paper.label}>
              <p className="paper-acts">
                <span>{paper.says}</span>
                <Button type="primary" href={`/api/jobs/${view.id}/papers/${paper.key}.pdf${asked}`} target="_blank">
                  Open as PDF, to print
                </Button>
                <SaveCase view={view} />
              </p>
              <Picture
                key={`${view.id} ${view.entries} ${paper.key} ${size}`}
                label={`${paper.label}, first page`}
                src={`/api/jobs/${view.id}/papers/${paper.key}.png?at=${view.entries}${size ? `&size=${size}` : ''}`}
              />
            </section>
          ),
        }))}
      />
    </main>
  )
}

function Picture({ src, label }: { src: string; label: string }) {
  const [state, setState] = useState<'working' | 'there' | 'failed'>('working')
  return (
    <>
      {state === 'working' && <p className="muted waiting">Setting the page…</p>}
      {state === 'failed' && (
        <p role="alert">The page could not be set. Is the server still running? Try the PDF, or load this page anew.</p>
      )}
      <img
        className="paper-page"
        alt={label}
        src={src}
        onLoad={() => setState('there')}
        onError={() => setState('failed')}
      />
    </>
  )
}
