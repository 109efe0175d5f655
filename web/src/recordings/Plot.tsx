import { useEffect, useMemo, useRef } from 'react'
import uPlot from 'uplot'
import 'uplot/dist/uPlot.min.css'
import type { EventView, ExpectedSignal, Levels } from '../api/recordings'
import { type Group, shortName } from './groups'
import { joined } from './lines'
import { useNewest } from '../shared/newest'
import { drawBand, drawEvents, drawStretch } from './overlay'
import type { Stretch } from './view'

/** Another recording's traces, drawn behind. */
export interface Behind {
  group: Group
  levels: ReadonlyMap<number, Levels>
  /** Seconds that it is moved by, so that both start together. */
  shift: number
}

interface PlotProps {
  group: Group
  levels: ReadonlyMap<number, Levels>
  behind: Behind | null
  view: Stretch
  events: readonly EventView[]
  /** What a healthy circuit shows of the first of these traces. */
  band: ExpectedSignal | undefined
  /** The stretch of the figure that is touched. */
  stretch: Stretch | null
  /** The moment that a mark would be set at. */
  at: number | null
  height: number
  /** Changes with the light, so that colours are read anew. */
  light: string
  onView: (view: Stretch) => void
  onTouch: (at: number) => void
}

/** Line by dash first, colour second: what is first in a plot is solid ink. */
const DASHES = [[], [14, 3], [3, 3], [14, 3, 3, 3]]
const COLOURS = ['--ink', '--copper', '--good', '--doubt']
const AXIS_PX = 58

/** One plot: the traces of a group over time. */
export function Plot(props: PlotProps) {
  const box = useRef<HTMLDivElement>(null)
  const plot = useRef<uPlot | null>(null)
  const now = useNewest(props)
  const { group, levels, behind, light, height } = props
  const lines = useMemo(() => linesOf(group, levels, behind), [group, levels, behind])
  const shape = `${group.traces.map((item) => item.place).join()}/${behind?.group.traces.length ?? 0}/${light}/${height}`
  useEffect(() => {
    const element = box.current
    if (!element) return
    const made = new uPlot(optionsOf(now, element.clientWidth), [[0]], element)
    plot.current = made
    const resized = new ResizeObserver(() => made.setSize({ width: element.clientWidth, height }))
    resized.observe(element)
    return () => {
      resized.disconnect()
      made.destroy()
      plot.current = null
    }
  }, [shape, height, now])
  useEffect(() => {
    plot.current?.setData([lines.at, ...lines.columns], false)
    setView(plot.current, now.current.view)
  }, [lines, shape, now])
  useEffect(() => setView(plot.current, props.view), [props.view])
  useEffect(() => plot.current?.redraw(false), [props.stretch, props.events, props.at, props.band])
  return <div ref={box} className="plot-canvas" style={{ height }} />
}

function setView(plot: uPlot | null, view: Stretch): void {
  plot?.batch(() => plot.setScale('x', { min: view.from, max: view.to }))
}

function linesOf(group: Group, levels: ReadonlyMap<number, Levels>, behind: Behind | null) {
  // the first lies on top of the others
  const sources = [
    ...group.traces.map((item) => ({ item, levels: levels.get(item.place), shift: 0 })),
    ...(behind?.group.traces ?? []).map((item) => ({
      item,
      levels: behind?.levels.get(item.place),
      shift: behind?.shift ?? 0,
    })),
  ].reverse()
  const empty = { at: new Float32Array(), lowest: new Float32Array(), highest: new Float32Array() }
  return joined(
    sources.map((source) => source.levels ?? empty),
    sources.map((source) => source.item.trace),
    sources.map((source) => source.shift),
  )
}

type Now = { current: PlotProps }

function optionsOf(now: Now, width: number): uPlot.Options {
  const { group, behind, height } = now.current
  const styles = getComputedStyle(document.documentElement)
  const colour = (name: string) => styles.getPropertyValue(name).trim()
  const font = `13px ${colour('--figures')}`
  const axis = {
    stroke: colour('--soft'),
    font,
    grid: { stroke: colour('--faint'), width: 1 },
    ticks: { stroke: colour('--faint'), width: 1, size: 4 },
  }
  const words = group.traces[0]?.trace.words ?? []
  const drawn = [
    ...group.traces.map((_, place) => ({
      stroke: colour(COLOURS[place % 4] ?? '--ink'),
      dash: DASHES[place % 4] ?? [],
      width: place === 0 ? 2 : 1.3,
    })),
    ...(behind?.group.traces ?? []).map(() => ({ stroke: colour('--line'), dash: [], width: 1.2 })),
  ].reverse()
  return {
    width,
    height,
    padding: [20, 8, 0, 0],
    legend: { show: false },
    cursor: {
      y: false,
      drag: { x: true, y: false, setScale: false },
      points: { show: false },
      sync: { key: 'recording' },
    },
    scales: { x: { time: false, auto: false }, y: { range: (_plot, low, high) => rangeOf(low, high, words) } },
    axes: [
      { ...axis, size: 30, values: (_plot, splits) => splits.map((value) => `${Number(value.toFixed(4))} s`) },
      {
        ...axis,
        size: AXIS_PX,
        ...(words.length ? { splits: () => words.map((_, place) => place), values: () => words.map(shortWord) } : {}),
      },
    ],
    series: [{}, ...drawn.flatMap((line) => pair(line, words))],
    bands: drawn.map(({ stroke }, place) => ({ series: [2 * place + 2, 2 * place + 1], fill: `${stroke}66` })),
    hooks: {
      drawClear: [
        (plot) => drawBand(plot, now.current.band, colour('--good')),
        (plot) => drawStretch(plot, now.current.stretch, colour('--copper-wash')),
      ],
      draw: [
        (plot) =>
          drawEvents(plot, now.current.events, now.current.at, {
            line: colour('--copper'),
            text: colour('--ink'),
            font,
          }),
      ],
      setSelect: [
        (plot) => {
          if (plot.select.width < 4) return
          const from = plot.posToVal(plot.select.left, 'x')
          const to = plot.posToVal(plot.select.left + plot.select.width, 'x')
          plot.setSelect({ left: 0, top: 0, width: 0, height: 0 }, false)
          now.current.onView({ from, to })
        },
      ],
      ready: [
        (plot) =>
          plot.over.addEventListener('click', (event) => {
            const at = plot.posToVal(event.offsetX, 'x')
            if (plot.select.width < 4) now.current.onTouch(at)
          }),
      ],
    },
  }
}

const shortWord = (word: string) => (word.length > 7 ? `${word.slice(0, 6)}…` : word)

/** The lowest and the highest of a trace, with what lies between them filled. */
function pair(line: Pick<uPlot.Series, 'stroke' | 'dash' | 'width'>, words: readonly string[]): uPlot.Series[] {
  const stepped = words.length && uPlot.paths.stepped ? { paths: uPlot.paths.stepped({ align: 1 }) } : {}
  const one: uPlot.Series = { ...line, points: { show: false }, spanGaps: false, ...stepped }
  return [one, { ...one }]
}

function rangeOf(low: number | null, high: number | null, words: readonly string[]): [number, number] {
  if (words.length) return [-0.3, words.length - 0.7]
  if (low === null || high === null) return [0, 1]
  const room = Math.max((high - low) * 0.08, Math.abs(high) * 0.02, 0.02)
  return [low - room, high + room]
}

export const nameOfLine = (group: Group) =>
  group.traces.map((item, place) => ({
    name: shortName(item, group),
    colour: COLOURS[place % 4] ?? '--ink',
    dash: DASHES[place % 4] ?? [],
  }))
