import { Segmented } from 'antd'
import { type Dispatch, useRef } from 'react'
import type { Described, Judged, JobView } from '../api/client'
import { KINDS } from './measures'
import type { EntryProps } from './measures/kind'
import { type Action, type Draft, marksOne, type Measure, mayMove, needsPoints } from './draft'
import { NumberPad } from './NumberPad'
import { Problem } from '../shared/Problem'
import { RangeScale } from './RangeScale'
import { StateStrip } from './StateStrip'
import { dial, judgement, vocabulary } from '../shared/vocabulary'

interface Props extends EntryProps {
  /** The reading is on its way to the ledger. */
  sending: boolean
  error: Error | null
  judged: Judged | undefined
  shown: Described | undefined
}

const onDial = () =>
  (Object.keys(KINDS) as Measure[]).map((measure) => ({ value: measure, label: dial(measure).label }))

/** The meter is the entry field: its dial the instrument, its display the number, its leads the points. */
export function Meter(props: Props) {
  const { draft, dispatch } = props
  const unit = vocabulary().units[draft.measure]
  const { Entry } = KINDS[draft.measure]
  const meter = useRef<HTMLDivElement>(null)
  return (
    <div
      ref={meter}
      onClick={(event) => event.detail > 0 && requestAnimationFrame(() => toDisplay(meter.current))}
      className={unit ? 'meter padded' : 'meter wide'}
    >
      <div className="meter-dial">
        <Segmented<Measure>
          block
          className="dial"
          aria-label="Instrument"
          value={draft.measure}
          options={onDial()}
          onChange={(measure) => dispatch({ type: 'measure', measure })}
        />
      </div>
      <div className="meter-main">
        <Points view={props.view} draft={draft} dispatch={dispatch} />
        <Entry key={draft.measure} {...props} />
      </div>
      <Verdict {...props} />
      <div className="meter-state">
        <StateStrip draft={draft} dispatch={dispatch} view={props.view} words={pointWords(props.view)} />
      </div>
      {unit && (
        <NumberPad
          value={draft.value}
          span={mayMove(draft, props.view.choices.live)}
          onChange={(value) => dispatch({ type: 'type', value })}
          onEnter={() => props.onTake()}
        />
      )}
    </div>
  )
}

/** After a touch on the state, what is typed goes to the display, unless a list is open or a text is being written. */
function toDisplay(meter: HTMLElement | null) {
  const active = document.activeElement
  const writing = active instanceof HTMLInputElement && ['text', ''].includes(active.type) && active.role !== 'combobox'
  if (!meter || writing || meter.querySelector('.ant-select-open')) return
  meter.querySelector<HTMLInputElement>('.display > input, .display.figures input')?.focus({ preventScroll: true })
}

const pointWords = (view: JobView) => (id: string) =>
  view.drawing.points.find((point) => point.id === id)?.words ?? 'touch a point'

function Points({ view, draft, dispatch }: { view: JobView; draft: Draft; dispatch: Dispatch<Action> }) {
  const words = pointWords(view)
  if (marksOne(draft)) {
    return <p className="points one">{KINDS[draft.measure].placeWords?.(draft, words)}</p>
  }
  if (!needsPoints(draft.measure)) return null
  return (
    <>
      {draft.told && (
        <p role="status" className="told">
          {draft.told}
        </p>
      )}
      <p className="points">
        {(['red', 'black'] as const).map((lead) => (
          <button
            key={lead}
            type="button"
            className={`lead-name ${lead}`}
            aria-pressed={draft.lead === lead}
            onClick={() => dispatch({ type: 'set', change: { lead } })}
            title="Then touch a point on the drawing"
          >
            {lead === 'red' ? '● ' : '○ '}
            {words(draft[lead])}
          </button>
        ))}
      </p>
    </>
  )
}

/** What a sound circuit shows at the reading that was laid out. */
function expectedOf(view: JobView, laid: string): string {
  const { next, alternatives, repair } = view.verdict
  const listed = [...(next ? [next] : []), ...alternatives].map((item) => ({
    reading: item.reading,
    expect: item.expect,
  }))
  const all = [...listed, ...repair.proof.map((item) => ({ reading: item.read, expect: item.expect }))]
  return all.find((item) => JSON.stringify(item.reading) === laid)?.expect ?? ''
}

/** The judgement, where the reading was taken. */
function Verdict({ error, judged, shown, sending, view, draft }: Props) {
  if (error) return <Problem error={error} />
  if (sending) return <p className="judged muted">…</p>
  if (!judged || !shown) {
    const expected = draft.own ? '' : expectedOf(view, draft.laid)
    return <p className="judged muted">{expected && `Should read ${expected}.`}</p>
  }
  const warned = view.verdict.warnings.filter((item) => item.reading === judged.reading)
  return (
    <div className={`judged ${judged.result}`} role="status">
      <p className="judged-head">
        <span className="mark">{judgement(judged.result).mark}</span>
        <span className="figure">{shown.value}</span>
        <span className="judged-result">{judgement(judged.result).word}</span>
      </p>
      <RangeScale judged={judged} />
      {judged.means.toLowerCase() !== `${judgement(judged.result).word}.` && <p>{judged.means}</p>}
      {warned.map((item) => (
        <p key={item.warning} className="trap">
          {item.says}
        </p>
      ))}
    </div>
  )
}
