import { Alert, Button, Input, Modal } from 'antd'
import { useState } from 'react'
import { Link } from 'react-router'
import type { JobView, Probe, Reading } from '../api/client'
import { useCloseJob } from '../api/jobs'
import { Problem } from '../shared/Problem'

/** What has to be shown after the repair, each a touch away from the meter; before and after side by side. */
export function Proof({ view, onTake }: { view: JobView; onTake: (probe: Probe) => void }) {
  const { repair } = view.verdict
  const value = (place: number | null | undefined) =>
    place === null || place === undefined ? '' : (view.ledger[place]?.value ?? '')
  return (
    <ul className="proof-list" aria-label="Proof of the repair">
      {repair.proof.map((item, place) => {
        const shown = item.by !== null && item.by !== undefined
        return (
          <li
            key={`${item.kind} ${item.what} ${view.proof_words[place]?.step ?? ''}`}
            className={shown ? 'met' : 'wanted'}
          >
            <span className="gate-mark" aria-hidden="true">
              {shown ? '✓' : '○'}
            </span>
            <span>
              {item.what}
              <span className="muted gate-says">
                {value(item.before) && (
                  <>
                    before <s className="figure">{value(item.before)}</s>,{' '}
                  </>
                )}
                {shown ? (
                  <>
                    now <span className="figure">{value(item.by)}</span>
                  </>
                ) : (
                  <>
                    should read <span className="figure">{item.expect}</span>
                  </>
                )}
              </span>
              {!shown && <span className="muted gate-says">{view.proof_words[place]?.state}</span>}
            </span>
            {!shown && (
              <Button onClick={() => onTake(item.read)} aria-label={`Take: ${item.what}`}>
                Take it
              </Button>
            )}
          </li>
        )
      })}
    </ul>
  )
}

/** How the job ends: handed over as proven, closed with a reason, or open again because the code is back. */
export function HandOver({ view, onAct }: { view: JobView; onAct: (reading: Reading) => void }) {
  const { repair, decision } = view.verdict
  const close = useCloseJob(view.id)
  const [asking, setAsking] = useState(false)
  const [reason, setReason] = useState('')
  const proven = repair.state === 'proven' || (repair.state === 'none' && decision === 'no-fault-now')
  const back = () => onAct({ measure: 'act', action: 'clear-codes', value: 'returned-later' } as Reading)
  if (repair.closed) {
    return (
      <div className="hand-over">
        <Alert
          type={proven ? 'success' : 'warning'}
          showIcon
          title={proven ? 'Handed over, proven' : 'Closed, not proven'}
          description={[repair.closed.reason, repair.closed.by && `by ${repair.closed.by}`].filter(Boolean).join(', ')}
        />
        <Link to={`/jobs/${view.id}/papers`} className="quiet">
          Papers
        </Link>
        {repair.done.length > 0 && <Button onClick={back}>The code came back</Button>}
      </div>
    )
  }
  return (
    <div className="hand-over">
      {close.error && <Problem error={close.error} />}
      {proven ? (
        <Button type="primary" loading={close.isPending} onClick={() => close.mutate('')}>
          Hand the vehicle over
        </Button>
      ) : (
        <Button onClick={() => setAsking(true)}>Close it unproven…</Button>
      )}
      <Link to={`/jobs/${view.id}/papers`} className="quiet">
        Papers
      </Link>
      {repair.done.length > 0 && repair.state !== 'came-back' && <Button onClick={back}>The code came back</Button>}
      <Modal
        title="Close it unproven"
        open={asking}
        onCancel={() => setAsking(false)}
        okText="Close it"
        okButtonProps={{ disabled: !reason.trim() }}
        onOk={() => close.mutate(reason.trim(), { onSuccess: () => setAsking(false) })}
        destroyOnHidden
      >
        <p>What is not shown stands on the paper, with your reason.</p>
        <Input.TextArea
          autoFocus
          aria-label="Why it is closed unproven"
          value={reason}
          onChange={(event) => setReason(event.target.value)}
          placeholder="The driver had to leave; back on Monday…"
          autoSize={{ minRows: 2 }}
          maxLength={500}
        />
      </Modal>
    </div>
  )
}
