import { Button, Segmented } from 'antd'
import type { Choices, Draft } from './reading'

/** One of a few, with its name. */
export function Switch(props: {
  label: string
  differs?: boolean
  value: string
  options: [string, string][]
  onChange: (value: string) => void
}) {
  return (
    <span className={props.differs ? 'switch differs' : 'switch'} title={props.differs ? DIFFERS : undefined}>
      <span className="switch-label">{props.label}</span>
      <Segmented
        aria-label={props.label}
        value={props.value}
        options={props.options.map(([value, label]) => ({ value, label }))}
        onChange={props.onChange}
      />
    </span>
  )
}

/** Beside what the proposal asks for. */
const DIFFERS = 'Not as it was proposed'

/** On or off. */
export function Toggle({
  label,
  on,
  differs,
  onChange,
}: {
  label: string
  on: boolean
  differs?: boolean
  onChange: (on: boolean) => void
}) {
  return (
    <Button
      className={differs ? 'toggle differs' : 'toggle'}
      title={differs ? DIFFERS : undefined}
      aria-pressed={on}
      onClick={() => onChange(!on)}
    >
      {label}
    </Button>
  )
}

/** The size of a lamp. */
export function LampSize({
  draft,
  lamps,
  set,
}: {
  draft: Draft
  lamps: Choices['lamps']
  set: (change: Partial<Draft>) => void
}) {
  return (
    <Switch
      label="Lamp"
      value={String(draft.watts)}
      options={lamps.map((lamp) => [String(lamp.watts), lamp.label])}
      onChange={(watts) => set({ watts: Number(watts) })}
    />
  )
}
