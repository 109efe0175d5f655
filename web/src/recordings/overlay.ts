import type uPlot from 'uplot'
import type { EventView, ExpectedSignal } from '../api/recordings'
import type { Stretch } from './view'

/** What lies on a plot besides its lines. */
interface Inks {
  line: string
  text: string
  font: string
}

/** What is expected once all is warm: ruled faintly between its ends, so that it is seen in grey print, too. */
export function drawBand(plot: uPlot, band: ExpectedSignal | undefined, ink: string): void {
  if (!band) return
  const { ctx, bbox } = plot
  const place = (value: number | null, open: number) =>
    value === null ? open : Math.min(Math.max(plot.valToPos(value, 'y', true), bbox.top), bbox.top + bbox.height)
  const top = place(band.high, bbox.top)
  const bottom = place(band.low, bbox.top + bbox.height)
  const apart = 9 * (window.devicePixelRatio || 1)
  ctx.save()
  ctx.beginPath()
  ctx.rect(bbox.left, top, bbox.width, bottom - top)
  ctx.clip()
  ctx.strokeStyle = ink
  ctx.globalAlpha = 0.28
  ctx.beginPath()
  for (let x = bbox.left - (bottom - top); x < bbox.left + bbox.width; x += apart) {
    ctx.moveTo(x, bottom)
    ctx.lineTo(x + bottom - top, top)
  }
  ctx.stroke()
  ctx.restore()
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
    // words stand above the plot; one that would lie on the one before, or over the edge, is left out: the list of marks has them all
    if (x < free || x + width > bbox.left + bbox.width) continue
    ctx.fillText(event.label, x - 2 * ratio, bbox.top - 17 * ratio)
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
