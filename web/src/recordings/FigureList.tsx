import { Segmented } from 'antd'
import { useMemo, useState } from 'react'
import { type ExpectedSignal, expectedOf, type FigureView, type SamplesView, type TraceView } from '../api/recordings'
import { groupsOf } from './groups'
import type { Stretch } from './view'

interface FigureListProps {
  shown: SamplesView
  expected: readonly ExpectedSignal[]
  /** The figure whose stretch is seen. */
  touched: string | null
  onTouch: (name: string, stretch: Stretch | null) => void
}

/** Figures of each signal; a figure that is touched shows the stretch it was read off. */
export function FigureList({ shown, expected, touched, onTouch }: FigureListProps) {
  const [all, setAll] = useState(false)
  const placed = useMemo(() => groupsOf(shown).flatMap((group) => group.traces), [shown])
  return (
    <section className="figures-list" aria-label="Figures">
      <Segmented
        block
        value={all ? 'all' : 'told'}
        onChange={(value) => setAll(value === 'all')}
        options={[
          { value: 'told', label: 'What it shows' },
          { value: 'all', label: 'Also what it cannot tell' },
        ]}
      />
      {placed.map(({ trace, place }) => (
        <TraceFigures
          key={place}
          trace={trace}
          expected={expectedOf(trace, expected)}
          place={place}
          all={all}
          touched={touched}
          onTouch={onTouch}
        />
      ))}
    </section>
  )
}

type TraceProps = Omit<FigureListProps, 'shown' | 'expected'> & {
  trace: TraceView
  expected: ExpectedSignal | undefined
  place: number
  all: boolean
}

function TraceFigures({ trace, expected, place, all, touched, onTouch }: TraceProps) {
  const figures = trace.figures.filter((figure) => all || !figure.reason)
  return (
    <div className="figures-of">
      <h3>{trace.label}</h3>
      <p className="muted">
        {trace.samples.toLocaleString('en')} samples
        {trace.rate_hz ? `, ${Number(trace.rate_hz.toPrecision(3))} a second` : ''}
        {trace.gaps.length > 0 && `, ${trace.gaps.length} ${trace.gaps.length === 1 ? 'gap' : 'gaps'}`}
        {trace.left_out > 0 && `, ${trace.left_out} cells left out`}
      </p>
      <ul>
        {figures.map((figure) => {
          const name = `${place}/${figure.name}`
          return (
            <li key={figure.name}>
              <FigureLine
                figure={figure}
                expect={expected?.figures.find((item) => item.name === figure.name)?.text ?? ''}
                pressed={touched === name}
                onTouch={(stretch) => onTouch(name, stretch)}
              />
            </li>
          )
        })}
      </ul>
    </div>
  )
}

interface LineProps {
  figure: FigureView
  /** What it should be; empty where nothing is said of it. */
  expect: string
  pressed: boolean
  onTouch: (stretch: Stretch | null) => void
}

function FigureLine({ figure, expect, pressed, onTouch }: LineProps) {
  const { from_s: from, to_s: to } = figure
  if (figure.reason || from === null || to === null) {
    return (
      <p className="figure-line untold">
        <span>{figure.label}</span>
        <span>{figure.reason ? `cannot tell: ${figure.reason}` : figure.text}</span>
      </p>
    )
  }
  return (
    <button
      type="button"
      className="figure-line"
      aria-pressed={pressed}
      onClick={() => onTouch(pressed ? null : { from, to })}
    >
      <span>
        {figure.label}
        {expect && <span className="figure-expected">expected {expect}</span>}
      </span>
      <strong className="figure">{figure.text}</strong>
      <span className="figure muted">{figure.error}</span>
    </button>
  )
}
