import type { JobView } from '../api/client'

/** The job as a file: its case, and with its recordings where it has some. */
export function SaveCase({ view }: { view: JobView }) {
  const recorded = (view.case.recordings ?? []).length > 0
  return (
    <>
      <a className="quiet" href={`/api/jobs/${view.id}/case`} download={`job-${view.id}.json`}>
        Save as a case file
      </a>
      {recorded && (
        <a className="quiet" href={`/api/jobs/${view.id}/case.zip`} download={`job-${view.id}.zip`}>
          With its recordings
        </a>
      )}
    </>
  )
}
