import { Button, Input, Select } from 'antd'
import { type Dispatch, useState } from 'react'
import type { JobView } from '../api/client'
import { type Action, differing, type Draft, needsPoints } from './draft'
import { applying } from './state'
import { KINDS } from './measures'
import { Switch, Toggle } from './Toggle'
import { ClearedClock } from './ClearedClock'
import { say } from '../shared/vocabulary'

/** What each control of the state is given. has: fields that apply; differs: those that are not as proposed. */
interface Controls {
  draft: Draft
  view: JobView
  has: ReadonlySet<string>
  differs: readonly string[]
  set: (change: Partial<Draft>) => void
}

/** All that the reading will be stored with: pre-set by the proposal, corrected by one touch, and nothing beside it. */
export function StateStrip(props: {
  draft: Draft
  dispatch: Dispatch<Action>
  view: JobView
  words: (point: string) => string
}) {
  const { draft, dispatch, view, words } = props
  const set = (change: Partial<Draft>) => dispatch({ type: 'set', change })
  const has = applying(draft, view.choices.state)
  const controls: Controls = { draft, view, set, has, differs: differing(draft, view.choices.state) }
  const { Beside } = KINDS[draft.measure]
  return (
    <div className="state-strip" role="group" aria-label="State of the vehicle">
      <Switches {...controls} />
      <AskedFigures {...controls} />
      {has.has('of') && <Part said={draft.of} offered={view.choices.others} onChange={(of) => set({ of })} />}
      {has.has('jumper') && draft.jumper.length === 2 && (
        <Button className="toggle" aria-pressed onClick={() => set({ jumper: [] })} title="Take the bridge away">
          {words(draft.jumper[0])} bridged to {words(draft.jumper[1])}
        </Button>
      )}
      <Toggles {...controls} />
      {has.has('codes_cleared') && draft.codes_cleared && <ClearedClock job={view.id} seconds={view.latch_window_s} />}
      {Beside && <Beside draft={draft} lamps={view.choices.lamps} set={set} />}
      <Note value={draft.note} onChange={(note) => dispatch({ type: 'note', change: { note } })} />
      {has.has('with') && (
        <Conditions said={draft.with} offered={fitting(draft, view.choices)} onChange={(said) => set({ with: said })} />
      )}
    </div>
  )
}

function Switches({ draft, set, has, differs }: Controls) {
  return (
    <>
      {has.has('key') && (
        <Switch
          label="Key"
          differs={differs.includes('key')}
          value={draft.key}
          options={KEYS}
          onChange={(key) => set({ key: key as Draft['key'] })}
        />
      )}
      {has.has('connector') && (
        <Switch
          label="Plug"
          differs={differs.includes('connector')}
          value={draft.connector}
          options={PLUG}
          onChange={(connector) => set({ connector: connector as Draft['connector'] })}
        />
      )}
    </>
  )
}

/** Figures of the state that are asked for by a touch. */
const ASKED = [
  { field: 'rpm', label: 'rpm', name: 'Engine speed in 1/min', unit: 'rpm' },
  { field: 'at_s', label: 'after … s', name: 'Seconds since start', unit: 'after s' },
  { field: 'coolant_c', label: 'coolant', name: 'Coolant temperature in °C', unit: 'coolant °C' },
] as const
/** Figures of the state that stand there. */
const STANDING = [
  { field: 'fed_v', label: 'fed V', name: 'Volts fed to the signal wire' },
  { field: 'sensor_c', label: 'Element °C', name: 'Element temperature in °C, or hot' },
] as const

function AskedFigures({ draft, set, has }: Controls) {
  return (
    <>
      {ASKED.filter(({ field }) => has.has(field)).map(({ field, ...says }) => (
        <Asked key={field} {...says} value={draft[field]} onChange={(text) => set({ [field]: text })} />
      ))}
      {STANDING.filter(({ field }) => has.has(field)).map(({ field, ...says }) => (
        <Short key={field} {...says} value={draft[field]} onChange={(text) => set({ [field]: text })} />
      ))}
    </>
  )
}

/** What is either so or not: the field, its name, and its two values. */
const EITHER = [
  { field: 'module_connector', label: 'ECM apart', on: 'unplugged', off: 'mated' },
  { field: 'battery', label: 'battery off', on: 'disconnected', off: 'connected' },
  { field: 'others', label: 'others unplugged', on: 'unplugged', off: '' },
  { field: 'codes_cleared', label: 'cleared', on: true, off: false },
] as const

function Toggles({ draft, set, has, differs }: Controls) {
  return EITHER.filter(({ field }) => has.has(field)).map(({ field, label, on, off }) => (
    <Toggle
      key={field}
      label={label}
      differs={differs.includes(field)}
      on={draft[field] === on}
      onChange={(now) => set({ [field]: now ? on : off })}
    />
  ))
}

const PLUG: [string, string][] = [
  ['mated', 'in'],
  ['unplugged', 'apart'],
]
const KEYS: [string, string][] = [['off', 'off'], ['on', 'on'], ['running', 'running'], ['cranking', 'crank']] // prettier-ignore

/** Conditions that can show at the points at hand; a scan value shows them all. */
function fitting(draft: Draft, choices: JobView['choices']): readonly string[] {
  const clamped = KINDS[draft.measure].clamps ?? false
  if (!needsPoints(draft.measure) && !clamped) return choices.conditions
  const ends = (clamped ? [draft.at] : [draft.red, draft.black]).map((point) => point.split('.').at(-1) ?? '')
  const atHeater = ends.some((end) => (choices.heater_terminals as readonly string[]).includes(end))
  const atCell = ends.some((end) => (choices.live.terminals as readonly string[]).includes(end))
  return choices.conditions.filter((name) =>
    (choices.of_heater as readonly string[]).includes(name) ? atHeater : atCell,
  )
}

/** Each condition one touch; what has been touched is stored. */
function Conditions({
  said,
  offered,
  onChange,
}: {
  said: string[]
  offered: readonly string[]
  onChange: (said: string[]) => void
}) {
  return (
    <span className="conditions" role="group" aria-label="Taken with">
      {[...new Set([...offered, ...said])].map((name) => (
        <Toggle
          key={name}
          label={say(name)}
          on={said.includes(name)}
          onChange={(on) => onChange(on ? [...said, name] : said.filter((other) => other !== name))}
        />
      ))}
    </span>
  )
}

function Part({
  said,
  offered,
  onChange,
}: {
  said: string
  offered: readonly string[]
  onChange: (said: string) => void
}) {
  return (
    <Select
      value={said}
      onChange={onChange}
      aria-label="Which part is measured"
      className="part"
      options={[
        { value: '', label: 'this sensor' },
        ...[...new Set([...offered, ...(said ? [said] : [])])].map((value) => ({ value, label: say(value) })),
      ]}
    />
  )
}

function Short({
  label,
  value,
  name,
  onChange,
}: {
  label: string
  value: string
  name: string
  onChange: (value: string) => void
}) {
  return (
    <label className="celsius">
      {label}
      <Input className="figure" value={value} onChange={(event) => onChange(event.target.value)} aria-label={name} />
    </label>
  )
}

/** A word to the reading, where there is one to say. */
function Note({ value, onChange }: { value: string; onChange: (value: string) => void }) {
  const [open, setOpen] = useState(false)
  if (value === '' && !open) return <Toggle label="note" on={false} onChange={() => setOpen(true)} />
  return (
    <Input
      className="note"
      autoFocus={value === ''}
      maxLength={500}
      aria-label="Note"
      placeholder="note"
      value={value}
      onChange={(event) => onChange(event.target.value)}
      onBlur={() => setOpen(false)}
    />
  )
}

/** A figure of the state, where it was asked for; emptied, its field stays until it is left. */
function Asked({
  label,
  name,
  unit,
  value,
  onChange,
}: {
  label: string
  name: string
  unit: string
  value: string
  onChange: (value: string) => void
}) {
  const [open, setOpen] = useState(false)
  if (value === '' && !open) return <Toggle label={label} on={false} onChange={() => setOpen(true)} />
  return (
    <label className="celsius">
      {unit}
      <Input
        className="figure"
        inputMode="decimal"
        autoFocus={value === ''}
        value={value}
        aria-label={name}
        onFocus={() => setOpen(true)}
        onBlur={() => setOpen(false)}
        onChange={(event) => onChange(event.target.value)}
      />
    </label>
  )
}
