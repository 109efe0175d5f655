import type { JobView } from '../api/client'
import { judgement } from '../shared/vocabulary'
import { momentOf } from './moment'

/** All readings of the job, as they are printed. */
export function SheetLedger({ view }: { view: JobView }) {
  return (
    <section className="sheet-ledger" aria-label="Readings">
      <h2>Readings</h2>
      <table>
        <thead>
          <tr>
            <th>#</th>
            <th>Reading</th>
            <th>Where and how</th>
            <th>Expected</th>
            <th>Judged</th>
            <th>By</th>
          </tr>
        </thead>
        <tbody>
          {view.ledger.map((_, place) => (
            <Line key={place} view={view} place={place} />
          ))}
        </tbody>
      </table>
      <p className="muted">
        Ledger: {view.entries} entries. Newest: <span className="figure seal">{view.seal}</span>
      </p>
      <p className="muted">Emission parts are regulated: local rules and licensed practice come first.</p>
    </section>
  )
}

function Line({ view, place }: { view: JobView; place: number }) {
  const line = view.ledger[place]
  const judged = view.verdict.judged[place]
  const reading = view.case.readings[place]
  const result = judged && judgement(judged.result)
  return (
    <tr className={reading?.struck ? 'struck' : ''}>
      <td>{place + 1}</td>
      <td className="figure">{line?.value}</td>
      <td>
        {[line?.where, line?.state].filter(Boolean).join('; ')}
        {reading?.struck ? ` (struck: ${reading.struck})` : ''}
      </td>
      <td className="figure">{judged?.expected}</td>
      <td>{reading?.struck || !result ? '—' : `${result.mark} ${result.word}`}</td>
      <td>{[view.written[place]?.by, momentOf(reading?.taken)].filter(Boolean).join(', ')}</td>
    </tr>
  )
}
