import { useEffect, useRef, useState } from 'react'
import { levelsOf, type Levels } from '../api/recordings'
import type { Placed } from './groups'
import type { Stretch } from './view'

/** Milliseconds that the view has to stand still before finer samples are fetched. */
const STILL_MS = 90
/** Points of one trace in a view: a lowest and a highest for each. */
const POINTS = 2400

/** What is drawn of some traces: first the whole, then finer where the view stands. Old samples stay until new ones are there. */
export function useLevels(base: string, traces: readonly Placed[], whole: Stretch, view: Stretch) {
  const [held, setHeld] = useState<{ base: string; levels: ReadonlyMap<number, Levels> } | null>(null)
  const [failed, setFailed] = useState<Error | null>(null)
  const first = useRef(true)
  const places = traces.map((item) => item.place).join()
  useEffect(() => {
    const stop = new AbortController()
    const fetchAll = async () => {
      // half a view on either side, so that a short pan finds something there
      const room = (view.to - view.from) / 2
      const from = Math.max(whole.from, view.from - room)
      const to = Math.min(whole.to, view.to + room)
      const numbers = places.split(',').map(Number)
      const found = await Promise.all(
        numbers.map(async (place) => [place, await levelsOf(base, place, from, to, POINTS, stop.signal)] as const),
      )
      setHeld({ base, levels: new Map(found) })
      setFailed(null)
    }
    const wait = first.current ? 0 : STILL_MS
    first.current = false
    const due = window.setTimeout(() => {
      fetchAll().catch((error: unknown) => {
        if (!stop.signal.aborted) setFailed(error as Error)
      })
    }, wait)
    return () => {
      window.clearTimeout(due)
      stop.abort()
    }
  }, [base, places, whole.from, whole.to, view.from, view.to])
  return { levels: held?.base === base ? held.levels : null, failed }
}
