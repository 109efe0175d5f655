import { Button, InputNumber } from 'antd'
import { useState } from 'react'
import type { JobView } from '../api/client'
import { useCorrectTime } from '../api/jobs'
import { Problem } from './Problem'

/** How long it took by the ledger's clock, and what that was worth; corrected where the clock is wrong. */
export function WorkedTime({ view }: { view: JobView }) {
  const { time } = view
  const correct = useCorrectTime(view.id)
  const [draft, setDraft] = useState<{ finding: number; mending: number } | null>(null)
  if (!draft) {
    return (
      <p className="worked">
        <span className="figure">{time.finding}</span> min to find it, <span className="figure">{time.mending}</span> min to mend and prove it{time.by && ` (by ${time.by})`}.{' '}
        <Button size="small" type="text" onClick={() => setDraft({ finding: time.finding, mending: time.mending })}>Correct</Button>
        {time.says && <span className="muted gate-says">{time.says}</span>}
      </p>
    )
  }
  return (
    <form className="worked" onSubmit={(event) => { event.preventDefault(); correct.mutate(draft, { onSuccess: () => setDraft(null) }) }}>
      <label>To find it, min <InputNumber autoFocus min={0} max={10000} value={draft.finding} onChange={(value) => setDraft({ ...draft, finding: value ?? 0 })} /></label>
      <label>To mend and prove it, min <InputNumber min={0} max={10000} value={draft.mending} onChange={(value) => setDraft({ ...draft, mending: value ?? 0 })} /></label>
      <Button htmlType="submit" loading={correct.isPending}>Save</Button>
      {correct.error && <Problem error={correct.error} />}
    </form>
  )
}
