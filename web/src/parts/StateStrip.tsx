import { type Dispatch, useState } from 'react'
import type { JobView } from '../api/client'
import { CONDITION } from '../model/words'
import { type Action, type Draft, needsPoints } from '../model/draft'
import { ClearedClock } from './ClearedClock'

/** The state the reading is taken in: pre-set by the proposal, corrected by one touch. */
export function StateStrip({ draft, dispatch, view, words }: { draft: Draft; dispatch: Dispatch<Action>; view: JobView; words: (point: string) => string }) {
  if (draft.measure === 'inspect' || draft.measure === 'act') return null
  const set = (change: Partial<Draft>) => dispatch({ type: 'set', change })
  const electrical = needsPoints(draft.measure) || draft.measure === 'current'
  return (
    <div className="state-strip" role="group" aria-label="State of the vehicle">
      <Switch
        label="Key"
        value={draft.key}
        options={[['off', 'off'], ['on', 'on'], ['running', 'running']]}
        onChange={(key) => set({ key: key as Draft['key'] })}
      />
      {electrical && (
        <Switch
          label="Plug"
          value={draft.connector}
          options={[['mated', 'in'], ['unplugged', 'apart']]}
          onChange={(connector) => set({ connector: connector as Draft['connector'] })}
        />
      )}
      {(draft.measure === 'scan' || draft.measure === 'trace' || electrical) && draft.key !== 'off' && (
        <select value={draft.with} onChange={(event) => set({ with: event.target.value })} aria-label="Taken with">
          <option value="">as it is</option>
          {listed(view.choices.conditions, draft.with).map((value) => (
            <option key={value} value={value}>
              {CONDITION[value] ?? value}
            </option>
          ))}
        </select>
      )}
      <select value={draft.of} onChange={(event) => set({ of: event.target.value })} aria-label="Which part is measured">
        <option value="">this sensor</option>
        {listed(view.choices.others, draft.of).map((value) => (
          <option key={value} value={value}>
            {OTHER[value] ?? value.replace('S', ' S')}
          </option>
        ))}
      </select>
      {draft.jumper.length === 2 && (
        <button type="button" className="toggle" aria-pressed onClick={() => set({ jumper: [] })} title="Take the bridge away">
          {words(draft.jumper[0])} bridged to {words(draft.jumper[1])}
        </button>
      )}
      {draft.key !== 'off' && <Seconds value={draft.at_s} offered={!needsPoints(draft.measure)} onChange={(at_s) => set({ at_s })} />}
      {onElement(draft) && (
        <label className="celsius">
          Element °C
          <input className="figure" value={draft.sensor_c} onChange={(event) => set({ sensor_c: event.target.value })} aria-label="Element temperature in °C, or hot" />
        </label>
      )}
      {electrical && (
        <Toggle label="ECM apart" on={draft.module_connector === 'unplugged'} onChange={(on) => set({ module_connector: on ? 'unplugged' : 'mated' })} />
      )}
      {draft.key === 'off' && electrical && (
        <Toggle label="battery off" on={draft.battery === 'disconnected'} onChange={(on) => set({ battery: on ? 'disconnected' : 'connected' })} />
      )}
      {draft.key !== 'off' && <Toggle label="cleared" on={draft.codes_cleared} onChange={(on) => set({ codes_cleared: on })} />}
      {draft.codes_cleared && draft.key !== 'off' && <ClearedClock job={view.id} seconds={view.latch_window_s} />}
      {draft.measure === 'voltage' && <Toggle label="lamp load" on={draft.load === 'lamp'} onChange={(on) => set({ load: on ? 'lamp' : null })} />}
      {draft.measure === 'lamp' && (
        <Switch
          label="Lamp"
          value={String(draft.watts)}
          options={[['5', '5 W'], ['21', '21 W']]}
          onChange={(watts) => set({ watts: Number(watts) })}
        />
      )}
    </div>
  )
}

const OTHER: Record<string, string> = { 'known-good': 'a known-good one', new: 'the new one', old: 'the old one' }

/** What is offered, and what the draft already says. */
function listed(offered: readonly string[], said: string): readonly string[] {
  return said === '' || offered.includes(said) ? offered : [...offered, said]
}

/** Seconds since the start, where they matter or were asked for; emptied, the field stays until it is left. */
function Seconds({ value, offered, onChange }: { value: string; offered: boolean; onChange: (value: string) => void }) {
  const [open, setOpen] = useState(false)
  if (value === '' && !open) {
    return offered ? <Toggle label="after … s" on={false} onChange={() => setOpen(true)} /> : null
  }
  return (
    <label className="celsius">
      after s
      <input
        className="figure" inputMode="decimal" autoFocus={value === ''} value={value} aria-label="Seconds since start"
        onFocus={() => setOpen(true)} onBlur={() => setOpen(false)} onChange={(event) => onChange(event.target.value)}
      />
    </label>
  )
}

function onElement(draft: Draft): boolean {
  return draft.measure === 'resistance' && draft.red.startsWith('sensor.') && draft.black.startsWith('sensor.')
}

function Switch(props: { label: string; value: string; options: [string, string][]; onChange: (value: string) => void }) {
  return (
    <span className="switch" role="radiogroup" aria-label={props.label}>
      <span className="switch-label">{props.label}</span>
      {props.options.map(([value, label]) => (
        <button key={value} type="button" role="radio" aria-checked={props.value === value} onClick={() => props.onChange(value)}>
          {label}
        </button>
      ))}
    </span>
  )
}

function Toggle({ label, on, onChange }: { label: string; on: boolean; onChange: (on: boolean) => void }) {
  return (
    <button type="button" className="toggle" aria-pressed={on} onClick={() => onChange(!on)}>
      {label}
    </button>
  )
}
