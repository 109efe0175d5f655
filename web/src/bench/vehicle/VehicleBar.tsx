import { Button, Popover, Tag } from 'antd'
import type { Dispatch } from 'react'
import type { JobView } from '../../api/client'
import type { useVehicle, VehicleLook, VehicleSetting } from '../../api/vehicle'
import { Problem } from '../../shared/Problem'
import { say } from '../../shared/vocabulary'
import { type Action, type Draft, mayMove } from '../draft'
import { Switch, Toggle } from '../Toggle'
import { readInto, settingOf, waitOf } from './probe'

type Vehicle = ReturnType<typeof useVehicle>

interface Props {
  view: JobView
  draft: Draft
  dispatch: Dispatch<Action>
  vehicle: Vehicle
  onTake: () => void
  /** Whether whoever is here may turn anything. */
  writes: boolean
}

/** What can be done to mixture and circuit of a simulated vehicle. */
const DONE = ['rich', 'lean', 'snap', 'fuel-cut', 'heater-commanded', 'signal-grounded', 'control-grounded', 'fresh-air', 'dosing-on', 'dosing-off'] // prettier-ignore

/** A connected vehicle: its key, plug and engine, and what the instrument shows of it now. */
export function VehicleBar(props: Props) {
  const { vehicle } = props
  if (!vehicle.look) {
    return (
      <section className="vehicle-bar" aria-label="Simulated vehicle">
        {vehicle.error ? (
          <Problem error={vehicle.error} />
        ) : (
          <p className="muted">
            {props.writes
              ? 'Connecting the simulated vehicle…'
              : 'Say who you are, and the simulated vehicle is connected.'}
          </p>
        )}
      </section>
    )
  }
  return (
    <section className="vehicle-bar" aria-label="Simulated vehicle">
      <Panel {...props} look={vehicle.look} />
      <Readout {...props} look={vehicle.look} />
      {vehicle.error && <Problem error={vehicle.error} />}
    </section>
  )
}

/** Key, plug, engine speed and clock of the vehicle. */
function Panel({ view, vehicle, look }: Props & { look: VehicleLook }) {
  const { setting } = look
  const turn = (change: Partial<VehicleSetting>) => vehicle.order.mutate({ turn: change })
  const runs = setting.key === 'running' || setting.key === 'cranking'
  return (
    <div className="vehicle-panel">
      <Tag className="simulated-tag">Simulated</Tag>
      <Switch
        label="Key"
        value={runs ? 'running' : (setting.key ?? 'off')}
        options={[['off', 'off'], ['on', 'on'], ['running', 'start']]} // prettier-ignore
        onChange={(key) => turn({ key: key as 'off' })}
      />
      <Switch
        label="Plug"
        value={setting.connector ?? 'mated'}
        options={[['mated', 'in'], ['unplugged', 'apart']]} // prettier-ignore
        onChange={(connector) => turn({ connector: connector as 'mated' })}
      />
      {runs && (
        <Switch
          label="rpm"
          value={setting.rpm === 'idle' || setting.rpm === null ? 'idle' : String(setting.rpm)}
          options={[['idle', 'idle'], ['2500', '2500']]} // prettier-ignore
          onChange={(rpm) => turn({ rpm: rpm === 'idle' ? 'idle' : Number(rpm) })}
        />
      )}
      <More view={view} look={look} turn={turn} />
      <ScanTool look={look} onClear={() => vehicle.order.mutate({ clear_codes: true })} />
      <span className="vehicle-wait" role="group" aria-label="Let time go by">
        <Button onClick={() => vehicle.order.mutate({ wait_s: 30 })}>+30 s</Button>
        <Button onClick={() => vehicle.order.mutate({ wait_s: 300 })}>+5 min</Button>
      </span>
    </div>
  )
}

function clockOf(look: VehicleLook): string {
  const since = look.since_s < 120 ? `${Math.round(look.since_s)} s` : `${Math.floor(look.since_s / 60)} min`
  if (look.setting.key === 'running') return `runs ${since} · ${look.rpm} rpm · coolant ${look.coolant_c} °C`
  return `${look.setting.key === 'cranking' ? 'starting' : `key ${look.setting.key ?? 'off'} ${since}`} · coolant ${look.coolant_c} °C`
}

/** Where Enter takes what was read. */
const DISPLAY = '.display > input, .display.figures input'

/** What is turned less often: plugs of the module and battery, and what is done to the mixture. */
function More({
  view,
  look,
  turn,
}: {
  view: JobView
  look: VehicleLook
  turn: (change: Partial<VehicleSetting>) => void
}) {
  const now = look.setting.conditions ?? []
  const offered = DONE.filter((name) => (view.choices.conditions as readonly string[]).includes(name))
  const content = (
    <div className="vehicle-more">
      {offered.map((name) => (
        <Toggle
          key={name}
          label={say(name)}
          on={now.includes(name)}
          onChange={(on) => turn({ conditions: on ? [...now, name] : now.filter((other) => other !== name) })}
        />
      ))}
      <Toggle
        label="ECM apart"
        on={look.setting.module_connector === 'unplugged'}
        onChange={(on) => turn({ module_connector: on ? 'unplugged' : 'mated' })}
      />
      <Toggle
        label="battery off"
        on={look.setting.battery === 'disconnected'}
        onChange={(on) => turn({ battery: on ? 'disconnected' : 'connected' })}
      />
    </div>
  )
  return (
    <Popover trigger="click" placement="bottomLeft" content={content}>
      <Button>{now.length ? now.map(say).join(', ') : 'Do…'}</Button>
    </Popover>
  )
}

/** Codes and monitors of the vehicle's module. */
function ScanTool({ look, onClear }: { look: VehicleLook; onClear: () => void }) {
  const { codes } = look
  const content = (
    <div className="vehicle-codes">
      {codes === null && <p>Turn the key on: the module answers only then.</p>}
      {codes?.length === 0 && <p>No codes.</p>}
      {codes?.map((item) => (
        <p key={item.code}>
          <span className="figure">{item.failure_type ? `${item.code}-${item.failure_type}` : item.code}</span>{' '}
          {item.status}
        </p>
      ))}
      {Object.entries(look.monitors).map(([name, done]) => (
        <p key={name} className="muted">
          monitor {name.replaceAll('-', ' ')}: {done}
        </p>
      ))}
      <Button disabled={codes === null} onClick={onClear}>
        Clear the codes
      </Button>
    </div>
  )
  return (
    <Popover trigger="click" placement="bottomLeft" content={content}>
      <Button>{codes === null ? 'Codes' : `Codes ${codes.length}`}</Button>
    </Popover>
  )
}

/** What the instrument shows now: read into the meter by a touch, with the vehicle's own state. */
function Readout({ view, draft, dispatch, vehicle, look, onTake }: Props & { look: VehicleLook }) {
  const { shown } = look
  if (!vehicle.fresh) return <p className="vehicle-readout muted">shows …</p>
  if (!shown) return <p className="vehicle-readout muted">Lay the instrument to two points to read this vehicle.</p>
  const read = (from: VehicleLook) => {
    dispatch({ type: 'note', change: readInto(draft, from) })
    requestAnimationFrame(() => document.querySelector<HTMLElement>(DISPLAY)?.focus({ preventScroll: true }))
  }
  const setUp = () =>
    vehicle.order.mutate({
      turn: settingOf(draft),
      clear_codes: draft.codes_cleared,
      wait_s: waitOf(draft, look),
    })
  const watch = () => vehicle.order.mutate({ watch: true }, { onSuccess: read })
  // one look at what moves says little
  const moves = mayMove(draft, view.choices.live)
  const word = draft.instrument !== '' && draft.value !== '' && !/^[-+\d.O]/.test(draft.value)
  return (
    <p className="vehicle-readout">
      <Button title="Key, plug and engine as the reading at hand asks" onClick={setUp}>
        Set as laid out
      </Button>
      <span className="muted">shows</span>
      {shown.refused ? (
        <span className="vehicle-refused">{shown.refused}</span>
      ) : (
        <>
          <span className="figure vehicle-live" aria-live="off">
            {shownText(shown)}
          </span>
          <Button type={word || moves ? 'default' : 'primary'} onClick={() => read(look)}>
            Read it
          </Button>
          {moves ? (
            <Button
              type="primary"
              loading={vehicle.order.isPending && vehicle.order.variables.watch === true}
              onClick={watch}
            >
              Last 10 s
            </Button>
          ) : null}
        </>
      )}
      {word && (
        <Button type="primary" onClick={onTake}>
          Take “{say(draft.value)}”
        </Button>
      )}
      <span className="vehicle-clock muted" role="status">
        {clockOf(look)}
      </span>
    </p>
  )
}

const shownText = (shown: NonNullable<VehicleLook['shown']>) =>
  Object.entries(shown.figures ?? {})
    .map(([name, value]) => `${say(name)} ${value}`)
    .join(' · ') || (/^[a-z]/.test(shown.value) ? say(shown.value) : shown.value)
