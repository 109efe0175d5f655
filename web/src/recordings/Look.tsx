import { useState } from 'react'
import { type Mark, type MarkChoice, type SamplesView, useExpected } from '../api/recordings'
import { FigureList } from './FigureList'
import { added, MarkBar } from './MarkBar'
import { type Other, Plots } from './Plots'
import { around, inView, type Stretch, within } from './view'

interface LookProps {
  id: number
  base: string
  shown: SamplesView
  other?: Other | null
  choices: readonly MarkChoice[]
  marks: readonly Mark[]
  /** None where marks cannot be set. */
  onMarks?: (marks: Mark[]) => void
}

/** A recording looked at: curves, figures beside them, marks under them. */
export function Look({ id, base, shown, other = null, choices, marks, onMarks }: LookProps) {
  const whole = { from: shown.from_s, to: shown.to_s }
  const [view, setView] = useState<Stretch>(whole)
  const [touched, setTouched] = useState<{ name: string; stretch: Stretch } | null>(null)
  const [at, setAt] = useState<number | null>(null)
  const expected = useExpected(id, shown).data ?? []
  const show = (next: Stretch) => setView(within(next, whole))
  const touchFigure = (name: string, stretch: Stretch | null) => {
    setTouched(stretch && { name, stretch })
    if (stretch && !inView(stretch, view)) show(around(stretch, whole))
  }
  const mark = (next: Mark[]) => {
    onMarks?.(next)
    setAt(null)
  }
  const byKey = (key: string) => {
    const choice = /^[1-9]$/.test(key) ? choices[Number(key) - 1] : undefined
    if (!choice || at === null || !onMarks) return false
    mark(added(marks, { at_s: at, event: choice.id, note: '' }))
    return true
  }
  return (
    <div className="look">
      <div className="look-curves">
        <Plots
          base={base}
          shown={shown}
          other={other}
          view={view}
          events={shown.events}
          expected={expected}
          stretch={touched?.stretch ?? null}
          at={onMarks ? at : null}
          onView={show}
          onTouch={(moment) => setAt(within({ from: moment, to: moment }, whole).from)}
          onOtherKey={byKey}
        />
        {onMarks && (
          <MarkBar
            choices={choices}
            marks={marks}
            at={at}
            onMarks={mark}
            onLeave={() => setAt(null)}
            onShow={(moment) => show(around({ from: moment, to: moment }, whole))}
          />
        )}
      </div>
      <FigureList shown={shown} expected={expected} touched={touched?.name ?? null} onTouch={touchFigure} />
    </div>
  )
}
