import { Button, InputNumber } from 'antd'
import { useState } from 'react'
import type { JobView, Schemas } from '../api/client'
import { useCorrectTime } from '../api/jobs'
import { Problem } from '../shared/Problem'

type Minutes = Required<Schemas['Minutes']>
const PHASES: [keyof Minutes, string][] = [
  ['finding', 'to find it'],
  ['mending', 'to mend it'],
  ['proving', 'to prove it'],
]

/** How long it took by the ledger's clock, and what that was worth; corrected where the clock is wrong. */
export function WorkedTime({ view }: { view: JobView }) {
  const { time } = view
  const correct = useCorrectTime(view.id)
  const [draft, setDraft] = useState<Minutes | null>(null)
  if (!draft) {
    return (
      <p className="worked">
        {PHASES.map(([phase, words], place) => (
          <span key={phase}>
            {place > 0 && ', '}
            <span className="figure">{time[phase]}</span> min {words}
          </span>
        ))}
        {time.by && ` (by ${time.by})`}.{' '}
        <Button
          size="small"
          type="text"
          onClick={() => setDraft({ finding: time.finding, mending: time.mending, proving: time.proving })}
        >
          Correct
        </Button>
        {(time.says || time.unseen) && (
          <span className="muted gate-says">
            {time.says} {time.unseen}
          </span>
        )}
      </p>
    )
  }
  return (
    <form
      className="worked"
      onSubmit={(event) => {
        event.preventDefault()
        correct.mutate(draft, { onSuccess: () => setDraft(null) })
      }}
    >
      {PHASES.map(([phase, words], place) => (
        <label key={phase}>
          Min {words}{' '}
          <InputNumber
            autoFocus={place === 0}
            min={0}
            max={10000}
            value={draft[phase]}
            onChange={(value) => setDraft({ ...draft, [phase]: value ?? 0 })}
          />
        </label>
      ))}
      <Button htmlType="submit" loading={correct.isPending}>
        Save
      </Button>
      {correct.error && <Problem error={correct.error} />}
    </form>
  )
}
