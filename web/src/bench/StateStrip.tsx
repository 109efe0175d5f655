import { Button, Input, Select } from 'antd'
import { type Dispatch, useState } from 'react'
import type { JobView } from '../api/client'
import { type Action, differing, type Draft, needsPoints } from './draft'
import { applying } from './state'
import { KINDS } from './measures'
import { Switch, Toggle } from './Toggle'
import { ClearedClock } from './ClearedClock'
import { say } from '../shared/vocabulary'

/** All that the reading will be stored with: pre-set by the proposal, corrected by one touch, and nothing beside it. */
export function StateStrip({
  draft,
  dispatch,
  view,
  words,
}: {
  draft: Draft
  dispatch: Dispatch<Action>
  view: JobView
  words: (point: string) => string
}) {
  const has = applying(draft, view.choices.state)
  const differs = differing(draft, view.choices.state)
  const { Beside } = KINDS[draft.measure]
  const set = (change: Partial<Draft>) => dispatch({ type: 'set', change })
  return (
    <div className="state-strip" role="group" aria-label="State of the vehicle">
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
          options={[
            ['mated', 'in'],
            ['unplugged', 'apart'],
          ]}
          onChange={(connector) => set({ connector: connector as Draft['connector'] })}
        />
      )}
      {has.has('rpm') && (
        <Asked label="rpm" name="Engine speed in 1/min" unit="rpm" value={draft.rpm} onChange={(rpm) => set({ rpm })} />
      )}
      {has.has('fed_v') && (
        <Short
          label="fed V"
          value={draft.fed_v}
          name="Volts fed to the signal wire"
          onChange={(fed_v) => set({ fed_v })}
        />
      )}
      {has.has('of') && <Part said={draft.of} offered={view.choices.others} onChange={(of) => set({ of })} />}
      {has.has('jumper') && draft.jumper.length === 2 && (
        <Button className="toggle" aria-pressed onClick={() => set({ jumper: [] })} title="Take the bridge away">
          {words(draft.jumper[0])} bridged to {words(draft.jumper[1])}
        </Button>
      )}
      {has.has('at_s') && (
        <Asked
          label="after … s"
          name="Seconds since start"
          unit="after s"
          value={draft.at_s}
          onChange={(at_s) => set({ at_s })}
        />
      )}
      {has.has('coolant_c') && (
        <Asked
          label="coolant"
          name="Coolant temperature in °C"
          unit="coolant °C"
          value={draft.coolant_c}
          onChange={(coolant_c) => set({ coolant_c })}
        />
      )}
      {has.has('sensor_c') && (
        <Short
          label="Element °C"
          value={draft.sensor_c}
          name="Element temperature in °C, or hot"
          onChange={(sensor_c) => set({ sensor_c })}
        />
      )}
      {has.has('module_connector') && (
        <Toggle
          label="ECM apart"
          differs={differs.includes('module_connector')}
          on={draft.module_connector === 'unplugged'}
          onChange={(on) => set({ module_connector: on ? 'unplugged' : 'mated' })}
        />
      )}
      {has.has('battery') && (
        <Toggle
          label="battery off"
          differs={differs.includes('battery')}
          on={draft.battery === 'disconnected'}
          onChange={(on) => set({ battery: on ? 'disconnected' : 'connected' })}
        />
      )}
      {has.has('others') && (
        <Toggle
          label="others unplugged"
          differs={differs.includes('others')}
          on={draft.others === 'unplugged'}
          onChange={(on) => set({ others: on ? 'unplugged' : '' })}
        />
      )}
      {has.has('codes_cleared') && (
        <Toggle
          label="cleared"
          differs={differs.includes('codes_cleared')}
          on={draft.codes_cleared}
          onChange={(on) => set({ codes_cleared: on })}
        />
      )}
      {has.has('codes_cleared') && draft.codes_cleared && <ClearedClock job={view.id} seconds={view.latch_window_s} />}
      {Beside && <Beside draft={draft} lamps={view.choices.lamps} set={set} />}
      <Note value={draft.note} onChange={(note) => dispatch({ type: 'note', change: { note } })} />
      {has.has('with') && (
        <Conditions said={draft.with} offered={fitting(draft, view.choices)} onChange={(said) => set({ with: said })} />
      )}
    </div>
  )
}

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
