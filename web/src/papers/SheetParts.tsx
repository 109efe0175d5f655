import type { JobView, Schemas } from '../api/client'
import { Gate } from '../shared/Gate'
import { momentOf } from './moment'

/** What stands now: how sure, what it costs to act, what has to be shown. */
export function Standing({ view }: { view: JobView }) {
  const { verdict } = view
  return (
    <>
      <section aria-label="Confidence">
        <h2>How sure</h2>
        <p>{view.how_sure}</p>
        <p>{verdict.acting_now}</p>
        <p className="muted">{view.summary.cost}</p>
      </section>
      <section aria-label="What has to be shown">
        <h2>{verdict.decision === 'keep-testing' ? 'Before it can be decided' : 'What was shown first'}</h2>
        <Gate rows={verdict.gate} />
      </section>
    </>
  )
}

/** What was decided and when, then what was done about it, then its proof. */
export function Repaired({ view }: { view: JobView }) {
  const { repair } = view.verdict
  const moment = (place: number) => momentOf(view.case.readings[place]?.taken ?? view.written[place]?.at)
  return (
    <>
      {repair.decided.map((item) => (
        <section key={item.reading} aria-label="What was decided">
          <h2>
            Decided {moment(item.reading)}, on {item.readings} {item.readings === 1 ? 'reading' : 'readings'}
          </h2>
          <p>
            {item.says} {item.how_sure}
          </p>
          <Lines lines={item.because} none="" />
        </section>
      ))}
      <section aria-label="What was done">
        <h2>Done</h2>
        <Lines none="" lines={repair.done.map((item) => doneLine(item, moment(item.reading)))} />
      </section>
      <section aria-label="Proof of the repair">
        <h2>Proof</h2>
        <Lines none="" lines={repair.proof.map(proofLine)} />
      </section>
    </>
  )
}

type Repair = Schemas['Answer']['repair']

function doneLine(item: Repair['done'][number], moment: string): string {
  const early = item.early && 'fitted before the fault was proven'
  return [item.says, item.part && `part ${item.part}`, moment, early, item.reason].filter(Boolean).join(', ')
}

function proofLine({ what, expect, by }: Repair['proof'][number]): string {
  const shown = by !== null && by !== undefined
  return `${shown ? '✓' : '○'} ${what}: ${expect}${shown ? `, reading ${by + 1}` : ''}`
}

/** The evidence, on both sides. */
export function Evidence({ view }: { view: JobView }) {
  const { verdict } = view
  return (
    <section aria-label="Evidence for">
      {view.how_sure && (
        <>
          <h2>Evidence for it</h2>
          <Lines lines={verdict.because} none="No reading points to it yet." />
        </>
      )}
      <h2>Evidence against, or unclear</h2>
      <Lines lines={view.still_open} none="Nothing that would matter." />
      {view.how_sure && (
        <>
          <h2>What would change it</h2>
          <Lines lines={verdict.would_change_it} none="No reading left would." />
        </>
      )}
    </section>
  )
}

function Lines({ lines, none }: { lines: readonly string[]; none: string }) {
  if (lines.length === 0) return <p className="muted">{none}</p>
  return (
    <ul>
      {lines.map((line, place) => (
        <li key={place}>{line}</li>
      ))}
    </ul>
  )
}
