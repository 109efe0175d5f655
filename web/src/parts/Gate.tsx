import type { JobView } from '../api/client'

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
