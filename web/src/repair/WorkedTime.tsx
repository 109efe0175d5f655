import { Button, Form, InputNumber } from 'antd'
import { useState } from 'react'
import type { JobView, Schemas } from '../api/client'
import { useCorrectTime } from '../api/repairs'
import { Problem } from '../shared/Problem'

type Minutes = Required<Schemas['Minutes']>
const PHASES: [keyof Minutes, string][] = [
  ['finding', 'to find it'],
  ['mending', 'to mend it'],
  ['proving', 'to prove it'],
]

/** How long it took by the ledger's clock, and what that was worth; corrected where the clock is wrong. */
export function WorkedTime({ view }: { view: JobView }) {
  const [correcting, setCorrecting] = useState(false)
  return correcting ? (
    <Correction view={view} onDone={() => setCorrecting(false)} />
  ) : (
    <ByTheClock time={view.time} onCorrect={() => setCorrecting(true)} />
  )
}

function ByTheClock({ time, onCorrect }: { time: JobView['time']; onCorrect: () => void }) {
  return (
    <p className="worked">
      {PHASES.map(([phase, words], place) => (
        <span key={phase}>
          {place > 0 && ', '}
          <span className="figure">{time[phase]}</span> min {words}
        </span>
      ))}
      {time.by && ` (by ${time.by})`}.{' '}
      <Button size="small" type="text" onClick={onCorrect}>
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

function Correction({ view, onDone }: { view: JobView; onDone: () => void }) {
  const correct = useCorrectTime(view.id)
  const { finding, mending, proving } = view.time
  const save = (typed: { [phase in keyof Minutes]: number | null }) => {
    const minutes = { finding: typed.finding ?? 0, mending: typed.mending ?? 0, proving: typed.proving ?? 0 }
    correct.mutate(minutes, { onSuccess: onDone })
  }
  return (
    <Form className="worked" initialValues={{ finding, mending, proving }} onFinish={save}>
      {PHASES.map(([phase, words], place) => (
        <label key={phase}>
          Min {words}{' '}
          <Form.Item name={phase} noStyle>
            <InputNumber autoFocus={place === 0} min={0} max={10000} />
          </Form.Item>
        </label>
      ))}
      <Button htmlType="submit" loading={correct.isPending}>
        Save
      </Button>
      {correct.error && <Problem error={correct.error} />}
    </Form>
  )
}
