import type { ChangeEvent } from 'react'
import { useNavigate } from 'react-router'
import { useOpenCase } from '../api/jobs'
import { Problem } from '../shared/Problem'

/** A job from a case file: one that was saved here, or written elsewhere in the same open format. */
export function CaseFile() {
  const navigate = useNavigate()
  const open = useOpenCase()
  const chosen = (event: ChangeEvent<HTMLInputElement>) => {
    const file = event.target.files?.[0]
    event.target.value = '' // the same file mended and chosen again is a change, too
    if (file) open.mutate(file, { onSuccess: (view) => void navigate(`/jobs/${view.id}`) })
  }
  return (
    <>
      <label className="quiet case-file">
        {open.isPending ? 'Reading it…' : 'Open a case file'}
        <input
          type="file"
          accept=".json,.zip,application/json,application/zip"
          onChange={chosen}
          disabled={open.isPending}
        />
      </label>
      {open.error && <Problem error={open.error} />}
    </>
  )
}
