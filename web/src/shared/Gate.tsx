import { Button } from 'antd'
import type { JobView, Probe } from '../api/client'

type Row = JobView['verdict']['gate'][number]
const MARK: Record<Row['status'], string> = { met: '✓', waived: '–', wanted: '○' }

/** What has to be shown before the decision, row by row: met, waived, or still wanted. */
export function Gate({ rows }: { rows: readonly Row[] }) {
  if (rows.length === 0) return <p className="muted">No further proof is needed.</p>
  return (
    <ul className="gate">
      {rows.map((row) => (
        <li key={`${row.component} ${row.asks}`} className={row.status} title={row.reason}>
          <span className="gate-mark" aria-hidden="true">
            {MARK[row.status]}
          </span>
          <span>
            {row.asks}
            <span className="muted gate-says">{row.says}</span>
          </span>
        </li>
      ))}
    </ul>
  )
}

/** What to read before the new part goes in, each a touch away from the meter, with what would withdraw the decision. */
export function BeforeFitting({ view, onPick }: { view: JobView; onPick?: (probe: Probe) => void }) {
  const rows = view.verdict.before_fitting
  if (rows.length === 0) return null
  return (
    <>
      <h3>Before you fit it</h3>
      <p className="muted">Order the part now. Read these before it goes in.</p>
      <ul className="before">
        {rows.map((item, place) => {
          const words = view.before_words[place]
          return (
            <li key={place}>
              <span>
                <strong>{words?.short_step}</strong> <span className="muted">{words?.state}</span>
                <span className="gate-says">
                  {item.expect && (
                    <>
                      Should read <span className="figure">{item.expect}</span>.{' '}
                    </>
                  )}
                  {sentence(item.withdraws)}
                </span>
                <span className="muted gate-says">{item.why}</span>
              </span>
              {onPick && (
                <Button onClick={() => onPick(item.read)} aria-label={`Read it: ${words?.short_step ?? ''}`}>
                  Read it
                </Button>
              )}
            </li>
          )
        })}
      </ul>
    </>
  )
}

const sentence = (text: string) => `${text.charAt(0).toUpperCase()}${text.slice(1)}.`

/** What the finding hides, and what to read of it once that is mended. */
export function AfterRepair({ view }: { view: JobView }) {
  const rows = view.verdict.after_repair.map((item, place) => ({ item, words: view.after_words[place] }))
  if (rows.length === 0) return null
  return (
    <ul className="after">
      {rows.map(({ item, words }, place) => {
        // one reading may prove several parts: it is told once, with the first
        const again = words && rows.findIndex((row) => row.words?.step === words.step) < place
        return (
          <li key={item.part}>
            {again ? null : words ? (
              <>
                <strong>{words.step}</strong>
                {item.expect && (
                  <>
                    : <span className="figure">{item.expect}</span>
                  </>
                )}
              </>
            ) : (
              <strong>{item.part}</strong>
            )}
            <span className="muted gate-says">
              {item.part}: {item.why}
            </span>
          </li>
        )
      })}
    </ul>
  )
}
