import { Button } from 'antd'
import type { JobView, Probe } from '../api/client'

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
