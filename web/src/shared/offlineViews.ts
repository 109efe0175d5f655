/** The newest views are kept on this device, so that a job opens with no server, too. */
import { dehydrate, hydrate, type QueryClient } from '@tanstack/react-query'
import { clear, createStore, get, set } from 'idb-keyval'

const store = createStore('dianoia-views', 'views')
const KEY = 'views'
/** What is kept, by the first word of its name; and how many jobs. */
const KEPT = ['job', 'here', 'jobs', 'families', 'presets', 'vehicles']
const JOBS = 12
const EVERY_MS = 1000
/** Views that are older are not shown any more, with a server or without. */
const OLDEST_MS = 12 * 3600_000

interface Saved {
  version: string
  at: number
  state: ReturnType<typeof dehydrate>
}

/** Bring back what was kept by a page of the same version. */
export async function bringBack(queries: QueryClient): Promise<void> {
  const saved = await get<Saved>(KEY, store).catch(() => undefined)
  if (saved?.version !== __API_VERSION__ || Date.now() - saved.at > OLDEST_MS) return forgetViews()
  hydrate(queries, saved.state)
  // shown at once, and asked for anew: what was kept may be older than what the server has
  void queries.invalidateQueries({ refetchType: 'none' })
}

/** Take all kept views away from this device. */
export async function forgetViews(): Promise<void> {
  await clear(store).catch(() => undefined)
}

/** Keep the views from now on, at most once a second. */
export function keepUp(queries: QueryClient): void {
  let due: number | undefined
  const save = () => {
    due = undefined
    const jobs = queries
      .getQueryCache()
      .findAll({ queryKey: ['job'] })
      .sort((a, b) => b.state.dataUpdatedAt - a.state.dataUpdatedAt)
    const newest = new Set(jobs.slice(0, JOBS).map((query) => query.queryHash))
    const state = dehydrate(queries, {
      shouldDehydrateQuery: ({ state: { status }, queryKey, queryHash }) =>
        status === 'success' && KEPT.includes(String(queryKey[0])) && (queryKey[0] !== 'job' || newest.has(queryHash)),
      shouldDehydrateMutation: () => false,
    })
    void set(KEY, { version: __API_VERSION__, at: Date.now(), state } satisfies Saved, store).catch(() => undefined)
  }
  queries.getQueryCache().subscribe(({ type }) => {
    if (type === 'updated' || type === 'added') due ??= window.setTimeout(save, EVERY_MS)
  })
}
