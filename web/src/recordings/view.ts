/** The stretch of a recording that is in view, and how keys and buttons move it. */
export interface Stretch {
  from: number
  to: number
}

/** Share of the view that one step moves, and that one step of the zoom leaves. */
const STEP = 0.2
const ZOOM = 0.6
/** The shortest view in seconds: a millisecond shows single samples of any scope here. */
const SHORTEST_S = 0.001

/** A stretch kept within the whole, as long as it was where it fits. */
export function within(stretch: Stretch, whole: Stretch): Stretch {
  const length = Math.min(Math.max(stretch.to - stretch.from, SHORTEST_S), whole.to - whole.from)
  const from = Math.min(Math.max(stretch.from, whole.from), whole.to - length)
  return { from, to: from + length }
}

/** Zoomed around a moment, which stays where it is on the screen. factor: above 1 shows less. */
export function zoomed(view: Stretch, whole: Stretch, factor: number, at = (view.from + view.to) / 2): Stretch {
  return within({ from: at - (at - view.from) / factor, to: at + (view.to - at) / factor }, whole)
}

export function moved(view: Stretch, whole: Stretch, share: number): Stretch {
  const by = share * (view.to - view.from)
  return within({ from: view.from + by, to: view.to + by }, whole)
}

/** What a key does to the view; null for a key that does nothing to it. */
export function onKey(key: string, view: Stretch, whole: Stretch): Stretch | null {
  switch (key) {
    case 'ArrowLeft':
      return moved(view, whole, -STEP)
    case 'ArrowRight':
      return moved(view, whole, STEP)
    case '+':
    case '=':
    case 'ArrowUp':
      return zoomed(view, whole, 1 / ZOOM)
    case '-':
    case 'ArrowDown':
      return zoomed(view, whole, ZOOM)
    case '0':
    case 'Home':
      return whole
    default:
      return null
  }
}

/** A stretch in view with room around it, so that a figure's own stretch is seen in its surroundings. */
export function around(stretch: Stretch, whole: Stretch): Stretch {
  const room = Math.max((stretch.to - stretch.from) * 0.75, (whole.to - whole.from) * 0.01, 0.01)
  return within({ from: stretch.from - room, to: stretch.to + room }, whole)
}

export const inView = (stretch: Stretch, view: Stretch) => stretch.from >= view.from && stretch.to <= view.to

/** Seconds as they are written at a plot: 4.52 s, 3 min 20 s. */
export function told(seconds: number): string {
  if (seconds < 60) return `${Number(seconds.toPrecision(4))} s`
  const minutes = Math.floor(seconds / 60)
  return `${minutes} min ${Number((seconds - 60 * minutes).toFixed(1))} s`
}
