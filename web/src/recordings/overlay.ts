import type uPlot from 'uplot'
import type { EventView } from '../api/recordings'
import type { Stretch } from './view'

/** What lies on a plot besides its lines. */
interface Inks {
  line: string
  text: string
  font: string
}

/** The stretch that a figure was read off, behind the lines. */
export function drawStretch(plot: uPlot, stretch: Stretch | null, fill: string): void {
  if (!stretch) return
  const { ctx, bbox } = plot
  const left = Math.max(plot.valToPos(stretch.from, 'x', true), bbox.left)
  const right = Math.min(plot.valToPos(stretch.to, 'x', true), bbox.left + bbox.width)
  ctx.save()
  ctx.fillStyle = fill
  ctx.fillRect(left - 2, bbox.top, Math.max(right - left, 0) + 4, bbox.height)
  ctx.restore()
}

/** Events as upright lines with their words; the moment that is touched, too. */
export function drawEvents(plot: uPlot, events: readonly EventView[], at: number | null, inks: Inks): void {
  const { ctx, bbox } = plot
  const ratio = window.devicePixelRatio || 1
  ctx.save()
  ctx.strokeStyle = inks.line
  ctx.lineWidth = 1.5 * ratio
  ctx.fillStyle = inks.text
  ctx.font = inks.font.replace(/^(\d+)px/, (_, size: string) => `${Number(size) * ratio}px`)
  ctx.textBaseline = 'top'
  ctx.textAlign = 'left'
  let free = bbox.left
  for (const event of events) {
    const x = upright(plot, event.at_s, [6 * ratio, 4 * ratio])
    if (x === null) continue
    const width = ctx.measureText(event.label).width
    // a word that would lie on the one before, or over the edge, is left out: the list of marks has them all
    if (x < free || x + width > bbox.left + bbox.width) continue
    ctx.fillText(event.label, x + 4 * ratio, bbox.top + 3 * ratio)
    free = x + width + 10 * ratio
  }
  if (at !== null) {
    ctx.strokeStyle = inks.text
    upright(plot, at, [])
  }
  ctx.restore()
}

/** An upright line at a moment; its place, or null where it is out of view. */
function upright(plot: uPlot, at: number, dash: number[]): number | null {
  const { ctx, bbox } = plot
  const x = Math.round(plot.valToPos(at, 'x', true))
  if (x < bbox.left || x > bbox.left + bbox.width) return null
  ctx.setLineDash(dash)
  ctx.beginPath()
  ctx.moveTo(x, bbox.top)
  ctx.lineTo(x, bbox.top + bbox.height)
  ctx.stroke()
  return x
}
