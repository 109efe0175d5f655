import { Button, Input, Segmented, Select } from 'antd'
import { type Dispatch, type FormEvent, useEffect, useRef } from 'react'
import type { Described, Judged, JobView } from '../api/client'
import { type Action, type Draft, EMPTY, marksOne, type Measure, mayMove, needsPoints } from '../model/draft'
import { typing } from './Keys'
import { Live } from './Live'
import { NumberPad } from './NumberPad'
import { Problem } from './Problem'
import { RangeScale } from './RangeScale'
import { StateStrip } from './StateStrip'
import { RESULT_MARK, RESULT_WORD } from '../model/words'

const INSTRUMENTS: { measure: Measure; label: string; key: string }[] = [
  { measure: 'voltage', label: 'V', key: 'v' },
  { measure: 'resistance', label: 'Ω', key: 'o' },
  { measure: 'lamp', label: 'Lamp', key: 'l' },
  { measure: 'current', label: 'A', key: 'a' },
  { measure: 'scope', label: 'Scope', key: 's' },
  { measure: 'scan', label: 'Scan', key: 'c' },
  { measure: 'trace', label: 'Record', key: 'r' },
  { measure: 'inspect', label: 'Look', key: 'i' },
  { measure: 'act', label: 'Did', key: 'd' },
]
const ON_SCOPE = ['high', 'low', 'duty_low', 'frequency']

interface Props {
  view: JobView
  draft: Draft
  dispatch: Dispatch<Action>
  onTake: (value?: string) => void
  /** The reading is on its way to the ledger. */
  sending: boolean
  /** Nothing can be taken now: a second touch would note the same again. */
  busy: boolean
  error: Error | null
  judged: Judged | undefined
  shown: Described | undefined
}

/** The meter is the entry field: its dial the instrument, its display the number, its leads the points. */
export function Meter(props: Props) {
  const { draft, dispatch } = props
  const unit = props.view.choices.units[draft.measure]
  const meter = useRef<HTMLDivElement>(null)
  return (
    <div ref={meter} onClick={(event) => event.detail > 0 && requestAnimationFrame(() => toDisplay(meter.current))} className={unit ? 'meter padded' : 'meter wide'}>
      <div className="meter-dial">
        <Segmented<Measure> block className="dial" aria-label="Instrument" value={draft.measure} options={INSTRUMENTS.map((item) => ({ value: item.measure, label: item.label }))} onChange={(measure) => dispatch({ type: 'measure', measure })} />
      </div>
      <div className="meter-main">
        <Points view={props.view} draft={draft} dispatch={dispatch} />
        <Entry {...props} />
      </div>
      <Verdict {...props} />
      <div className="meter-state">
        <StateStrip draft={draft} dispatch={dispatch} view={props.view} words={pointWords(props.view)} />
      </div>
      {unit && <NumberPad value={draft.value} span={mayMove(draft, props.view.choices.live)} onChange={(value) => dispatch({ type: 'type', value })} onEnter={() => props.onTake()} />}
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

/** A finger has the pad: the screen's own keyboard would cover half of the bench. */
const byFinger = () => window.matchMedia('(hover: none) and (pointer: coarse)').matches

const pointWords = (view: JobView) => (id: string) => view.drawing.points.find((point) => point.id === id)?.words ?? 'touch a point'

function Points({ view, draft, dispatch }: { view: JobView; draft: Draft; dispatch: Dispatch<Action> }) {
  const words = pointWords(view)
  if (marksOne(draft)) {
    return <p className="points one">{draft.measure === 'current' ? `Clamp at ${words(draft.at)}` : `Moved at ${draft.at ? words(draft.at) : 'the plug and loom; touch a point to say where'}`}</p>
  }
  if (!needsPoints(draft.measure)) return null
  return (
    <>
    {draft.told && <p role="status" className="told">{draft.told}</p>}
    <p className="points">
      {(['red', 'black'] as const).map((lead) => (
        <button key={lead} type="button" className={`lead-name ${lead}`} aria-pressed={draft.lead === lead} onClick={() => dispatch({ type: 'set', change: { lead } })} title="Then touch a point on the drawing">
          {lead === 'red' ? '● ' : '○ '}
          {words(draft[lead])}
        </button>
      ))}
    </p>
    </>
  )
}

function Entry(props: Props) {
  const { draft } = props
  if (draft.measure === 'lamp') return <Choices names={props.view.choices.lights} words={props.view.choices.words} onTake={props.onTake} busy={props.busy} />
  if (draft.measure === 'inspect') return <Picked field="target" options={props.view.choices.looks} {...props} />
  if (draft.measure === 'act') return <Picked field="action" options={props.view.choices.acts} {...props} />
  if (draft.measure === 'scope') return <Figures of="scope" labels={Object.fromEntries(ON_SCOPE.map((name) => [name, props.view.choices.words[name] ?? name]))} {...props} />
  if (draft.measure === 'trace') return <Recording {...props} />
  const words = draft.measure === 'scan' ? (scanOf(props.view, draft.pid)?.words ?? []) : []
  if (words.length > 0) {
    return (
      <div className="picked">
        <PidSelect {...props} />
        <Choices names={words} words={props.view.choices.words} onTake={props.onTake} busy={props.busy} />
      </div>
    )
  }
  return <Typed {...props} />
}

const scanOf = (view: JobView, pid: string) => view.choices.scans.find((item) => item.pid === pid)

function Typed({ view, draft, dispatch, onTake, busy }: Props) {
  const input = useRef<HTMLInputElement>(null)
  const spot = `${draft.measure} ${draft.red} ${draft.black} ${draft.lead} ${draft.at} ${draft.pid}`
  useEffect(() => {
    if (!writingElsewhere(input.current)) input.current?.focus({ preventScroll: true })
  }, [spot, busy])
  const submit = (event: FormEvent) => {
    event.preventDefault()
    if (draft.value.trim()) onTake()
  }
  return (
    <>
    <form className="display" onSubmit={submit}>
      {draft.measure === 'scan' && <PidSelect view={view} draft={draft} dispatch={dispatch} />}
      <input
        ref={input}
        className="figure"
        inputMode={byFinger() && view.choices.units[draft.measure] ? 'none' : 'text'}
        autoComplete="off"
        value={draft.value}
        onChange={(event) => dispatch({ type: 'type', value: event.target.value })}
        placeholder="reads…"
        aria-label="What the meter shows"
      />
      <span className="unit">{draft.measure === 'scan' ? scanOf(view, draft.pid)?.unit : view.choices.units[draft.measure]}</span>
      <Button type="primary" htmlType="submit" disabled={busy || !draft.value.trim()}>
        Take it ⏎
      </Button>
    </form>
    <Live view={view} draft={draft} dispatch={dispatch} onEnter={() => draft.value.trim() && onTake()} />
    </>
  )
}

/** A reason being typed in the ledger keeps the keyboard. */
function writingElsewhere(display: HTMLInputElement | null): boolean {
  const active = document.activeElement
  return active instanceof HTMLInputElement && active !== display
}

function PidSelect({ view, draft, dispatch }: { view: JobView; draft: Draft; dispatch: Dispatch<Action> }) {
  const listed = view.choices.scans.map((item) => item.pid as string)
  const pids = listed.includes(draft.pid) ? listed : [draft.pid, ...listed]
  return (
    <Select value={draft.pid} onChange={(pid: string) => dispatch({ type: 'set', change: { pid, value: '' } })} aria-label="Scan value" className="pid" options={pids.map((pid) => ({ value: pid, label: view.choices.words[pid] ?? pid }))} />
  )
}

/** The figures read off a recording of one scan value. */
function Recording(props: Props) {
  const { view, draft, dispatch } = props
  const offered = view.choices.recordings
  const chosen = offered.find((item) => item.signal === draft.signal)
  const unit = chosen?.unit ? `, ${chosen.unit}` : ''
  const labels = Object.fromEntries(
    (chosen?.figures ?? (['min', 'max'] as const)).map((name) => [name, `${view.choices.words[name] ?? name}${name === 'min' || name === 'max' ? unit : ''}`]),
  )
  return (
    <div className="picked">
      <Select
        value={draft.signal} onChange={(signal: string) => dispatch({ type: 'set', change: { signal, trace: EMPTY.trace } })} aria-label="What was recorded"
        options={[...new Set([...offered.map((item) => item.signal as string), draft.signal])].map((signal) => ({ value: signal, label: view.choices.words[signal] ?? signal }))}
      />
      <Figures of="trace" labels={labels} {...props} />
    </div>
  )
}

/** Several figures of one picture: a scope's screen, a recording. */
function Figures({ of, labels, draft, dispatch, onTake, busy }: Props & { of: 'scope' | 'trace'; labels: Record<string, string> }) {
  const typed = draft[of] as Record<string, string>
  const form = useRef<HTMLFormElement>(null)
  const spot = `${of} ${draft.red} ${draft.black} ${draft.signal}`
  useEffect(() => {
    const first = form.current?.querySelector('input') ?? null
    if (!writingElsewhere(first)) first?.focus({ preventScroll: true })
  }, [spot, busy])
  return (
    <form
      ref={form}
      className="display figures"
      onSubmit={(event) => {
        event.preventDefault()
        onTake()
      }}
    >
      {Object.entries(labels).map(([name, label]) => (
        <label key={name}>
          {label}
          <Input className="figure" value={typed[name] ?? ''} onChange={(event) => dispatch({ type: 'figure', of, name, value: event.target.value })} />
        </label>
      ))}
      <Button type="primary" htmlType="submit" disabled={busy}>
        Take it ⏎
      </Button>
    </form>
  )
}

/** What was seen, each one touch, or its number on the keyboard. */
function Choices({ names, words, onTake, busy }: { names: string[]; words: JobView['choices']['words']; onTake: (value: string) => void; busy: boolean }) {
  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      const name = /^Digit[1-9]$/.test(event.code) ? names[Number(event.code.slice(-1)) - 1] : undefined
      if (!name || busy || typing(event) || event.ctrlKey || event.metaKey) return
      event.preventDefault()
      onTake(name)
    }
    window.addEventListener('keydown', press)
    return () => window.removeEventListener('keydown', press)
  }, [names, busy, onTake])
  return (
    <div className="choices" role="group" aria-label="What was seen">
      {names.map((name, index) => (
        <button key={name} type="button" disabled={busy} onClick={() => onTake(name)} className={`choice ${name}`}>
          <span className="key" aria-hidden="true">{index + 1}</span>
          {words[name] ?? name}
        </button>
      ))}
    </div>
  )
}

function Picked(props: Props & { field: 'target' | 'action'; options: Record<string, string[]> }) {
  const { draft, dispatch, field, options } = props
  return (
    <div className="picked">
      <Select
        value={draft[field]} onChange={(name: string) => dispatch({ type: 'set', change: { [field]: name, place: '', at: '' } })} aria-label={field === 'target' ? 'What was looked at' : 'What was done'}
        options={Object.keys(options).map((name) => ({ value: name, label: props.view.choices.words[name] ?? name }))}
      />
      {field === 'target' && <Place {...props} />}
      <Choices names={options[draft[field]] ?? []} words={props.view.choices.words} onTake={props.onTake} busy={props.busy} />
    </div>
  )
}

/** Where it was looked at, for what is looked at in places. */
function Place({ view, draft, dispatch }: Props) {
  const places: readonly string[] = view.choices.places[draft.target] ?? []
  if (places.length === 0) return null
  return (
    <Segmented
      aria-label="Where it was looked at"
      value={draft.place}
      options={[{ value: '', label: 'all of it' }, ...places.map((value) => ({ value, label: view.choices.words[value] ?? value }))]}
      onChange={(place) => dispatch({ type: 'set', change: { place } })}
    />
  )
}

/** What a sound circuit shows at the reading that was laid out. */
function expectedOf(view: JobView, laid: string): string {
  const { next, alternatives, repair } = view.verdict
  const listed = [...(next ? [next] : []), ...alternatives].map((item) => ({ reading: item.reading, expect: item.expect }))
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
        <span className="mark">{RESULT_MARK[judged.result]}</span>
        <span className="figure">{shown.value}</span>
        <span className="judged-result">{RESULT_WORD[judged.result]}</span>
      </p>
      <RangeScale judged={judged} />
      <p>{judged.means}</p>
      {warned.map((item) => (
        <p key={item.warning} className="trap">
          {item.says}
        </p>
      ))}
    </div>
  )
}
