import type { Levels, TraceView } from '../api/recordings'

/** One column of numbers for the plot; null where nothing was recorded. */
type Column = (number | null)[]

/** Lines of one plot on common times: for each trace its lowest and its highest. */
export interface Lines {
  at: number[]
  columns: Column[]
}

/** Traces put on common times. shift: seconds that each is moved by, so that two recordings start together. */
export function joined(levels: readonly Levels[], traces: readonly TraceView[], shifts: readonly number[]): Lines {
  const parts = levels.map((one, place) => withGaps(one, traces[place]?.gaps ?? [], shifts[place] ?? 0))
  const at = [...new Set(parts.flatMap((part) => part.at))].sort((one, other) => one - other)
  const rank = new Map(at.map((moment, place) => [moment, place]))
  const columns: Column[] = []
  for (const part of parts) {
    const lowest: (number | null | undefined)[] = new Array<undefined>(at.length).fill(undefined)
    const highest = [...lowest]
    part.at.forEach((moment, place) => {
      const row = rank.get(moment) ?? 0
      lowest[row] = part.lowest[place] ?? null
      highest[row] = part.highest[place] ?? null
    })
    columns.push(lowest as Column, highest as Column)
  }
  return { at, columns }
}

interface Part {
  at: number[]
  lowest: Column
  highest: Column
}

/** A line that is broken where nothing was recorded. */
function withGaps(levels: Levels, gaps: readonly (readonly number[])[], shift: number): Part {
  const part: Part = { at: [], lowest: [], highest: [] }
  let gap = 0
  levels.at.forEach((moment, place) => {
    const before = place > 0 ? (levels.at[place - 1] ?? moment) : moment
    while (gap < gaps.length && (gaps[gap]?.[1] ?? 0) <= before) gap += 1
    const [start, end] = gaps[gap] ?? []
    if (start !== undefined && end !== undefined && place > 0 && before <= start + 1e-3 && moment >= end - 1e-3) {
      part.at.push(shift + (before + moment) / 2)
      part.lowest.push(null)
      part.highest.push(null)
    }
    part.at.push(shift + moment)
    part.lowest.push(levels.lowest[place] ?? null)
    part.highest.push(levels.highest[place] ?? null)
  })
  return part
}
