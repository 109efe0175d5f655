import { memo } from 'react'
import type { Drawing } from '../api/client'

type Element = Drawing['elements'][number]
type Corner = [number, number]

/** One part of the circuit. Its state is told by line first: dashed, heavy, hatched, crossed. */
export const BoardElement = memo(function BoardElement({
  element,
  apart,
  moduleApart,
}: {
  element: Element
  apart: boolean
  moduleApart: boolean
}) {
  const [from, to] = [element.path[0] as Corner, element.path.at(-1) as Corner]
  const [a, b] = [element.path.at(-3) ?? from, (element.path.length > 2 ? element.path[2] : to) as Corner]
  const middle: Corner = [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2]
  return (
    <g className={`part ${element.kind} ${element.state}`}>
      <Belief element={element} a={a} b={b} />
      <Symbol element={element} a={a} b={b} at={from[0]} apart={apart} moduleApart={moduleApart} />
      {element.state === 'condemned' && <Cross x={middle[0]} y={middle[1]} />}
      {element.state === 'proven' && element.tick && <Tick element={element} at={element.tick} />}
    </g>
  )
})

/** A hatched band, wider with belief, under a suspect part. */
function Belief({ element, a, b }: { element: Element; a: Corner; b: Corner }) {
  if (element.state !== 'suspect' && element.state !== 'condemned') return null
  const half = 8 + 16 * Math.min(element.belief, 1)
  const upright = a[0] === b[0]
  const box = upright
    ? { x: a[0] - half, y: a[1], width: 2 * half, height: b[1] - a[1] }
    : { x: a[0], y: (a[1] + b[1]) / 2 - half, width: b[0] - a[0], height: 2 * half }
  return (
    <rect {...box} rx={4} fill="url(#hatch)" className="belief">
      <title>{`${element.label}: ${element.percent}`}</title>
    </rect>
  )
}

function Symbol(props: { element: Element; a: Corner; b: Corner; at: number; apart: boolean; moduleApart: boolean }) {
  const { element, a, b } = props
  const width = b[0] - a[0]
  switch (element.kind) {
    case 'wire':
    case 'ground':
    case 'input':
      return <Line kind={element.kind} path={element.path} />
    case 'plug':
      return <Pin a={a} b={b} apart={props.apart} />
    case 'inline':
      return <Inline a={a} b={b} />
    case 'element':
      return <Heater a={a} b={b} at={props.at} label={element.label} />
    case 'cell':
      return <Cell a={a} b={b} at={props.at} />
    case 'driver':
      return <Driver a={a} b={b} apart={props.moduleApart} />
    case 'fuse':
      return (
        <>
          <rect x={a[0]} y={a[1]} width={width} height={b[1] - a[1]} rx={12} className="stroke" />
          <path d={`M${a[0]} ${(a[1] + b[1]) / 2}h${width}`} className="stroke" />
          <Label x={a[0] + width / 2} y={a[1] - 9} text={element.label} />
        </>
      )
    case 'relay':
      return (
        <>
          <rect x={a[0]} y={a[1]} width={width} height={b[1] - a[1]} className="stroke" />
          <path d={`M${a[0] + 8} ${b[1] - 12}l${width - 18} -14`} className="stroke" />
          <Label x={a[0] + width / 2} y={a[1] - 9} text={element.label} />
        </>
      )
    case 'battery':
      return (
        <>
          <rect x={a[0]} y={a[1]} width={width} height={b[1] - a[1]} className="stroke box" />
          <text x={a[0] + width / 2} y={b[1] - 13} textAnchor="middle" className="inside">
            {element.label}
          </text>
          <Label x={a[0] + width / 2} y={a[1] - 9} text="battery" />
        </>
      )
    default:
      return (
        <>
          <rect x={a[0]} y={a[1]} width={width} height={b[1] - a[1]} rx={8} className="stroke box" />
          <Label
            x={a[0] + width / 2}
            y={element.kind === 'unit' ? (a[1] + b[1]) / 2 : b[1] + (element.kind === 'module' ? -10 : 18)}
            text={element.label}
          />
        </>
      )
  }
}

function Label({ x, y, text }: { x: number; y: number; text: string }) {
  return (
    <text x={x} y={y} textAnchor="middle" className="label">
      {text}
    </text>
  )
}

function Line({ kind, path }: { kind: string; path: Corner[] }) {
  const [x, y] = path.at(-1) as Corner
  const foot = kind === 'ground' ? ` M${x - 16} ${y}h32 M${x - 9} ${y + 6}h18 M${x - 4} ${y + 12}h8` : ''
  return <path d={`M${path.map(([right, down]) => `${right} ${down}`).join(' L')}${foot}`} className="stroke" />
}

function Pin({ a, b, apart }: { a: Corner; b: Corner; apart: boolean }) {
  const middle = (a[0] + b[0]) / 2
  const gap = apart ? 11 : 0
  return (
    <path
      d={`M${a[0]} ${a[1]}H${middle - gap} M${middle - gap - 6} ${a[1] - 7}l6 7l-6 7 M${middle + gap} ${b[1]}H${b[0]}`}
      className="stroke"
    />
  )
}

/** An in-line connector: two halves in one shell on the wire. */
function Inline({ a, b }: { a: Corner; b: Corner }) {
  const middle = (a[0] + b[0]) / 2
  return (
    <>
      <rect x={a[0]} y={a[1]} width={b[0] - a[0]} height={b[1] - a[1]} rx={5} className="stroke inline-shell" />
      <path d={`M${middle} ${a[1]}V${b[1]}`} className="stroke" />
    </>
  )
}

/** at: where its two wires begin. */
function Heater({ a, b, at, label }: { a: Corner; b: Corner; at: number; label: string }) {
  const turns = 5
  const step = (b[1] - a[1] - 24) / turns
  const zigzag = Array.from({ length: turns }, (_, i) => `l${i % 2 ? -28 : 28} ${step}`).join('')
  return (
    <>
      <path
        d={`M${at} ${a[1]}H${a[0]}v12 m-14 0 ${zigzag} m${turns % 2 ? -14 : 14} 0 V${b[1]}H${at}`}
        className="stroke"
      />
      <Label x={a[0] + 88} y={(a[1] + b[1]) / 2 + 5} text={label} />
    </>
  )
}

function Cell({ a, b, at }: { a: Corner; b: Corner; at: number }) {
  const middle = (a[1] + b[1]) / 2
  return (
    <>
      <path
        d={`M${at} ${a[1]}H${a[0]}V${middle - 6} M${a[0] - 20} ${middle - 6}h40 M${a[0] - 11} ${middle + 6}h22 M${a[0]} ${middle + 6}V${b[1]}H${at}`}
        className="stroke"
      />
      <Label x={a[0] + 48} y={middle + 5} text="cell" />
    </>
  )
}

function Driver({ a, b, apart }: { a: Corner; b: Corner; apart: boolean }) {
  return (
    <>
      <path
        d={`M${b[0] + (apart ? 22 : 34)} ${b[1]}H${b[0] - (apart ? 0 : 0)} M${b[0]} ${b[1]}H${a[0] + 60} l-24 -15 M${a[0] + 28} ${b[1]}H${a[0]}V${a[1]}`}
        className="stroke"
      />
      <Label x={a[0] + 40} y={b[1] + 22} text="driver" />
    </>
  )
}

function Cross({ x, y }: { x: number; y: number }) {
  return <path d={`M${x - 20} ${y - 20}l40 40 M${x + 20} ${y - 20}l-40 40`} className="cross" />
}

function Tick({ element, at: [x, y] }: { element: Element; at: Corner }) {
  const mark = `M${x - 8} ${y - 5}l5 6l10 -13`
  return (
    <g>
      <path d={mark} className="tick-halo" />
      <path d={mark} className="tick">
        <title>{`${element.label}: proven by ${element.by.map((place) => `reading ${place + 1}`).join(', ')}`}</title>
      </path>
    </g>
  )
}
