import { type CSSProperties, useLayoutEffect, useRef, useState } from 'react'
import type { Drawing, JobView } from '../api/client'
import type { VehicleLook } from '../api/vehicle'
import { KINDS } from './measures'
import { type Draft, leads } from './draft'
import { BoardElement } from './BoardElement'
import { BoardPoint } from './BoardPoint'
import { judgement, vocabulary } from '../shared/vocabulary'

type Point = Drawing['points'][number]

/** The sensor's own circuit, inked in by what the readings prove. Touching a point puts a lead on it. */
export function CircuitBoard(props: {
  view: JobView
  draft: Draft
  shown: number | null
  onTouch?: (point: string) => void
  /** A connected vehicle: its plug stands as it does there, and what the instrument shows moves at its leads. */
  look?: VehicleLook | undefined
}) {
  const { drawing } = props.view
  const lying = leads(props.draft)
  const apart = (props.look?.setting.connector ?? props.draft.connector) === 'unplugged'
  const byId = new Map(drawing.points.map((point) => [point.id, point]))
  const [board, label] = useLabelSize(drawing)
  return (
    <svg
      ref={board}
      style={{ '--label': `${label}px` } as CSSProperties}
      viewBox={`0 0 ${drawing.width} ${drawing.height}`}
      className={`board ${apart ? 'apart' : 'mated'}`}
      role="group"
      aria-label="Circuit drawing"
    >
      <defs>
        <pattern id="hatch" width="7" height="7" patternTransform="rotate(45)" patternUnits="userSpaceOnUse">
          <rect width="3" height="7" className="hatch-line" />
        </pattern>
      </defs>
      <Stretch ends={drawing.stretch} />
      {drawing.elements.map((element) => (
        <BoardElement
          key={element.id}
          element={element}
          apart={apart}
          moduleApart={props.draft.module_connector === 'unplugged'}
        />
      ))}
      {drawing.terminals.map((row) => (
        <g key={row.terminal} className="terminal">
          <text x={row.at.x} y={row.at.y} textAnchor={row.at.anchor}>
            {row.label}
            {row.pin ? ` · pin ${row.pin}` : ''}
            {row.colour ? ` · ${row.colour}` : ''}
          </text>
        </g>
      ))}
      <PlugFrame drawing={drawing} apart={apart} />
      <Flow view={props.view} draft={props.draft} />
      <Bridge from={pick(byId, props.draft.jumper[0] ?? null)} to={pick(byId, props.draft.jumper[1] ?? null)} />
      <Leads
        drawing={drawing}
        red={pick(byId, lying.red)}
        black={pick(byId, lying.black)}
        lamp={KINDS[props.draft.measure].lamp?.(props.draft) ?? false}
      />
      {drawing.points.map((point) => (
        <BoardPoint
          key={point.id}
          point={point}
          lead={leadOn(point.id, lying)}
          {...(props.onTouch ? { onTouch: props.onTouch } : {})}
        />
      ))}
      <Taken view={props.view} byId={byId} shown={props.shown} />
      <LiveValue view={props.view} look={props.look} at={pick(byId, lying.red ?? lying.clamp)} />
    </svg>
  )
}

/** Units of the board that a label is high: 18, and more where the board is drawn so small that they would be under 13 pixels. */
function useLabelSize({ width, height }: Drawing) {
  const board = useRef<SVGSVGElement>(null)
  const [label, setLabel] = useState(18)
  useLayoutEffect(() => {
    const svg = board.current
    if (!svg) return
    const fit = () => {
      const scale = Math.min(svg.clientWidth / width, svg.clientHeight / height)
      if (scale > 0) setLabel(Math.max(18, Math.ceil((13 / scale) * 10) / 10))
    }
    fit()
    const watch = new ResizeObserver(fit)
    watch.observe(svg)
    return () => watch.disconnect()
  }, [width, height])
  return [board, label] as const
}

/** What flows in the state laid out: the key, the heater's current, a pulsed drive. */
function Flow({ view, draft }: { view: JobView; draft: Draft }) {
  const flow = view.drawing.flow
  const idle = KINDS[draft.measure].byHand ?? false
  const flows = !idle && flow && flow.keys.includes(draft.key) && draft.connector === flow.connector
  return (
    <g className="flow">
      <text x={4} y={15}>
        {idle ? '' : vocabulary().keys[draft.key]}
      </text>
      {flows && <path d={`M${flow.forth[0]} ${flow.forth[1]}l-14 -7v14z`} />}
      {flows && flow.back && <path d={`M${flow.back[0]} ${flow.back[1]}l14 -7v14z`} />}
      {flow?.pulsed && (
        <path d={`M${flow.pulsed[0]} ${flow.pulsed[1] - 8}h8v-14h10v14h8v-14h10v14h8`} className="pulse" />
      )}
    </g>
  )
}

/** The piece of the feed that a decision names, hatched as one. */
function Stretch({ ends }: { ends: Drawing['stretch'] }) {
  const [from, to] = ends ?? []
  if (!from || !to) return null
  const left = Math.min(from[0], to[0])
  return (
    <rect
      x={left}
      y={Math.min(from[1], to[1]) - 15}
      width={Math.max(from[0], to[0]) - left}
      height={30 + Math.abs(to[1] - from[1])}
      rx={6}
      className="stretch"
    >
      <title>the fault lies in this stretch</title>
    </rect>
  )
}

function pick(byId: Map<string, Point>, id: string | null): Point | null {
  return id === null ? null : (byId.get(id) ?? null)
}

function leadOn(id: string, lying: ReturnType<typeof leads>): 'red' | 'black' | 'clamp' | null {
  if (lying.red === id) return 'red'
  if (lying.black === id) return 'black'
  return lying.clamp === id ? 'clamp' : null
}

function PlugFrame({ drawing, apart }: { drawing: Drawing; apart: boolean }) {
  const [[left, top], [right, bottom]] = drawing.plug as [[number, number], [number, number]]
  return (
    <g className="plug-frame">
      <rect x={left} y={top} width={right - left} height={bottom - top} rx={6} />
      <text x={(left + right) / 2} y={top - 8} textAnchor="middle">
        {apart ? 'plug apart' : 'plugged in'}
      </text>
    </g>
  )
}

/** Two points joined by a fused lead while the reading is taken. */
function Bridge({ from, to }: { from: Point | null; to: Point | null }) {
  if (!from || !to) return null
  const lift = Math.max(from.y, to.y) + 46
  return (
    <path d={`M${from.x} ${from.y} C ${from.x} ${lift}, ${to.x} ${lift}, ${to.x} ${to.y}`} className="bridge">
      <title>{`${from.words} bridged to ${to.words}`}</title>
    </path>
  )
}

/** The leads lie on their points and run down to the meter below the board. */
function Leads(props: { drawing: Drawing; red: Point | null; black: Point | null; lamp: boolean }) {
  const { height, width } = props.drawing
  const down = (point: Point, x: number) =>
    `M${point.x} ${point.y} C ${point.x} ${point.y + 90}, ${x} ${height - 120}, ${x} ${height}`
  return (
    <g className="leads" aria-hidden="true">
      {props.black && <path d={down(props.black, width * 0.42)} className="lead black" />}
      {props.red && <path d={down(props.red, width * 0.46)} className="lead red" />}
      {props.lamp && <circle cx={width * 0.44} cy={height - 16} r={13} className="lamp" />}
    </g>
  )
}

/** What a connected instrument shows, where its red lead lies: at the reading's own place, or under what stands there. */
function LiveValue({ view, look, at }: { view: JobView; look: VehicleLook | undefined; at: Point | null }) {
  if (!look?.shown?.value || !at?.value) return null
  const there = view.noted.find((item) => item.point === at.id)
  const under = there ? (there.own !== null && there.beside !== null ? 2.3 : 1.1) : 0
  return (
    <text x={at.value.x} y={at.value.y} dy={`${under}em`} textAnchor={at.value.anchor} className="live-value figure">
      {look.shown.value}
    </text>
  )
}

/** Readings written where they were taken: this sensor's newest at each point, and under it what stands beside it. */
function Taken({ view, byId, shown }: { view: JobView; byId: Map<string, Point>; shown: number | null }) {
  const result = (place: number) => view.verdict.judged.find((item) => item.reading === place)?.result ?? 'unclear'
  const look = (place: number) => `${result(place)} ${shown === place ? 'shown' : ''}`
  return (
    <g className="taken">
      {view.noted.map(({ point, own, beside, whose }) => {
        const at = byId.get(point)?.value
        if (!at) return null
        return (
          <g key={point}>
            {own !== null && (
              <text x={at.x} y={at.y} textAnchor={at.anchor} className={look(own)}>
                {judgement(result(own)).mark} {view.ledger[own]?.value}
              </text>
            )}
            {beside !== null && (
              <text
                x={at.x}
                y={at.y + 19}
                textAnchor={at.anchor}
                className={`beside-it ${shown === beside ? 'shown' : ''}`}
              >
                {whose} {view.ledger[beside]?.value}
              </text>
            )}
          </g>
        )
      })}
    </g>
  )
}
