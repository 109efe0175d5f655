import { Button } from 'antd'
import { type PointerEvent, useMemo, useRef } from 'react'
import { useOutletContext } from 'react-router'
import type { FrameContext } from '../Frame'
import { type EventView, type ExpectedSignal, expectedOf, type SamplesView } from '../api/recordings'
import { type Group, groupsOf } from './groups'
import { type Behind, nameOfLine, Plot } from './Plot'
import { useLevels } from './useLevels'
import { moved, onKey, type Stretch, told, within, zoomed } from './view'

export interface Other {
  base: string
  shown: SamplesView
  /** Seconds that it is moved by, so that both start together. */
  shift: number
}

interface PlotsProps {
  base: string
  shown: SamplesView
  other: Other | null
  view: Stretch
  events: readonly EventView[]
  expected: readonly ExpectedSignal[]
  stretch: Stretch | null
  at: number | null
  onView: (view: Stretch) => void
  onTouch: (at: number) => void
  /** A key that does nothing to the view. */
  onOtherKey: (key: string) => boolean
}

const FIRST_PX = 190
const OTHER_PX = 132

/** All plots of a recording, one under the other, with one view of time. */
export function Plots(props: PlotsProps) {
  const { shown, view, onView } = props
  const groups = useMemo(() => groupsOf(shown), [shown])
  const whole = useMemo(() => ({ from: shown.from_s, to: shown.to_s }), [shown.from_s, shown.to_s])
  const fingers = useFingers(view, whole, onView)
  return (
    <section
      className="plots"
      aria-label="Curves. Arrow keys move and zoom, 0 shows all."
      tabIndex={0}
      onKeyDown={(event) => {
        const next = onKey(event.key, view, whole)
        if (next) onView(next)
        if (next || props.onOtherKey(event.key)) event.preventDefault()
      }}
      {...fingers}
    >
      <div className="plots-view">
        <Button onClick={() => onView(moved(view, whole, -0.5))} aria-label="Earlier">
          ◀
        </Button>
        <Button onClick={() => onView(zoomed(view, whole, 2))} aria-label="Closer">
          +
        </Button>
        <Button onClick={() => onView(zoomed(view, whole, 0.5))} aria-label="Wider">
          −
        </Button>
        <Button onClick={() => onView(moved(view, whole, 0.5))} aria-label="Later">
          ▶
        </Button>
        <Button onClick={() => onView(whole)} disabled={view.from === whole.from && view.to === whole.to}>
          All
        </Button>
        <span className="figure plots-span">
          {told(view.from)} to {told(view.to)}
        </span>
      </div>
      {groups.map((group, place) => (
        <GroupPlot key={group.key} {...props} group={group} whole={whole} height={place === 0 ? FIRST_PX : OTHER_PX} />
      ))}
    </section>
  )
}

type GroupProps = PlotsProps & { group: Group; whole: Stretch; height: number }

function GroupPlot(props: GroupProps) {
  const { group, base, whole, view, other } = props
  const { light } = useOutletContext<FrameContext>()
  const { levels, failed } = useLevels(base, group.traces, whole, view)
  const behindGroup = useMemo(
    () => (other ? groupsOf(other.shown).find((item) => item.key === group.key) : undefined),
    [other, group.key],
  )
  const lines = nameOfLine(group)
  const first = group.traces[0]
  const band = first && expectedOf(first.trace, props.expected)
  return (
    <figure className="plot" aria-label={inWords(group)}>
      <figcaption>
        <strong>
          {group.label}
          {group.unit && `, ${group.unit}`}
        </strong>
        {lines.length > 1 &&
          lines.map((line) => (
            <span key={line.name} className="plot-line">
              <svg width="34" height="10" aria-hidden="true">
                <line
                  x1="0"
                  x2="34"
                  y1="5"
                  y2="5"
                  style={{ stroke: `var(${line.colour})` }}
                  strokeWidth="2.5"
                  strokeDasharray={line.dash.join(' ')}
                />
              </svg>
              {line.name}
            </span>
          ))}
        {band && (
          <span className="plot-line">
            <span className="band-key" aria-hidden="true" />
            expected once warm{band.text && `: ${band.text}`}
          </span>
        )}
        {behindGroup && <span className="plot-line muted">grey: the other recording</span>}
      </figcaption>
      {failed && <p className="problem">{failed.message}</p>}
      {levels && !(other && behindGroup) && <Plot {...props} band={band} levels={levels} behind={null} light={light} />}
      {levels && other && behindGroup && (
        <WithOther {...props} band={band} levels={levels} light={light} other={other} behindGroup={behindGroup} />
      )}
      {!levels && !failed && <div className="plot-canvas waiting" style={{ height: props.height }} />}
    </figure>
  )
}

type WithOtherProps = Omit<Parameters<typeof Plot>[0], 'behind'> & { other: Other; behindGroup: Group }

/** A plot with the other recording's lines behind. */
function WithOther({ other, behindGroup, ...plot }: WithOtherProps) {
  const whole = useMemo(() => ({ from: other.shown.from_s, to: other.shown.to_s }), [other.shown])
  const seen = within({ from: plot.view.from - other.shift, to: plot.view.to - other.shift }, whole)
  const { levels } = useLevels(other.base, behindGroup.traces, whole, seen)
  const behind: Behind | null = useMemo(
    () => (levels ? { group: behindGroup, levels, shift: other.shift } : null),
    [levels, behindGroup, other.shift],
  )
  return <Plot {...plot} behind={behind} />
}

/** A plot for whoever cannot see it. */
function inWords(group: Group): string {
  const parts = group.traces.map(({ trace }) => {
    const span = trace.words.length
      ? trace.words.join(', ')
      : `${Number(trace.lowest.toPrecision(3))} to ${Number(trace.highest.toPrecision(3))} ${trace.unit}`
    return `${trace.label}, ${span}`
  })
  return parts.join('; ')
}

/** Two fingers zoom, one moves where there is more than the view; the page still scrolls up and down. */
function useFingers(view: Stretch, whole: Stretch, onView: (view: Stretch) => void) {
  const held = useRef(new Map<number, number>())
  const seconds = (event: PointerEvent<HTMLElement>) => (view.to - view.from) / event.currentTarget.clientWidth
  const lift = (event: PointerEvent) => void held.current.delete(event.pointerId)
  return {
    onPointerDown: (event: PointerEvent<HTMLElement>) => {
      if (event.pointerType === 'touch') held.current.set(event.pointerId, event.clientX)
    },
    onPointerMove: (event: PointerEvent<HTMLElement>) => {
      const before = held.current.get(event.pointerId)
      if (before === undefined) return
      const others = [...held.current].filter(([id]) => id !== event.pointerId)
      held.current.set(event.pointerId, event.clientX)
      const [other] = others
      if (other) {
        const apart = Math.abs(event.clientX - other[1])
        const was = Math.abs(before - other[1])
        if (apart > 20 && was > 20) onView(zoomed(view, whole, apart / was))
      } else {
        const by = (before - event.clientX) * seconds(event)
        onView(within({ from: view.from + by, to: view.to + by }, whole))
      }
    },
    onPointerUp: lift,
    onPointerCancel: lift,
  }
}
