import { Link } from 'react-router'
import type { JobView, Reading } from '../api/client'
import { AfterRepair, BeforeFitting, Gate } from '../shared/Gate'
import { NoteRepair } from '../repair/NoteRepair'
import { Writers } from '../people/Writers'

/** The decision as a checklist: what is certain, what had to be shown, what to read after the repair; and acting before it stands. */
export function Decide({ view, onAct }: { view: JobView; onAct: (reading: Reading) => void }) {
  const { verdict, summary } = view
  return (
    <section className="decide" aria-label="The decision">
      <h2>{summary.title}</h2>
      <p>{verdict.says}</p>
      <BeforeFitting view={view} />
      {verdict.after_repair.length > 0 && (
        <>
          <h3>Read after the repair</h3>
          <AfterRepair view={view} />
        </>
      )}
      {verdict.gate.length > 0 && (
        <>
          <h3>{verdict.decision === 'keep-testing' ? 'Before it can be decided' : 'What was shown first'}</h3>
          <Gate rows={verdict.gate} />
        </>
      )}
      {verdict.acting_now && <p className="why">{verdict.acting_now}</p>}
      <div className="decide-acts">
        <Writers>
          <NoteRepair view={view} onAct={onAct} />
        </Writers>
        <Link to={`/jobs/${view.id}/mend`} className="quiet">
          Repair sheet and proof
        </Link>
        <Link to={`/jobs/${view.id}/sheet`} className="quiet">
          Decision sheet
        </Link>
      </div>
    </section>
  )
}
