/** The newest views are kept on this device, so that a job opens with no server, too. */
import type { Query, QueryClient } from '@tanstack/react-query'
import {
  type PersistedClient,
  type Persister,
  persistQueryClientRestore,
  persistQueryClientSubscribe,
} from '@tanstack/react-query-persist-client'
import { clear, createStore, get, set } from 'idb-keyval'
import { orElse } from './orElse'

const store = createStore('dianoia-views', 'views')
const KEY = 'client'
/** What is kept, by the first word of its name; and how many jobs. */
const KEPT = ['job', 'here', 'jobs', 'families', 'presets', 'vehicles']
const JOBS = 12
const EVERY_MS = 1000
/** Views that are older are not shown any more, with a server or without. */
const OLDEST_MS = 12 * 3600_000

let due: number | undefined
let newest: PersistedClient | undefined

/** Written at most once a second. A device that keeps nothing still works with a server. */
const persister: Persister = {
  persistClient: (client) => {
    newest = client
    due ??= window.setTimeout(() => {
      due = undefined
      void orElse(() => set(KEY, newest, store), undefined)
    }, EVERY_MS)
  },
  restoreClient: () => orElse(() => get<PersistedClient>(KEY, store), undefined),
  removeClient: () => forgetViews(),
}

/** Whether a view is kept: of jobs the last opened ones. */
const isKept =
  (queries: QueryClient) =>
  ({ state, queryKey, queryHash }: Query): boolean => {
    if (state.status !== 'success' || !KEPT.includes(String(queryKey[0]))) return false
    if (queryKey[0] !== 'job') return true
    const jobs = queries.getQueryCache().findAll({ queryKey: ['job'] })
    const last = jobs.sort((a, b) => b.state.dataUpdatedAt - a.state.dataUpdatedAt).slice(0, JOBS)
    return last.some((query) => query.queryHash === queryHash)
  }

/** Bring back what was kept by a page of the same version. It is shown at once, and asked for anew. */
export async function bringBack(queries: QueryClient): Promise<void> {
  await persistQueryClientRestore({ queryClient: queries, persister, maxAge: OLDEST_MS, buster: __API_VERSION__ })
  void queries.invalidateQueries({ refetchType: 'none' })
}

/** Take all kept views away from this device. */
export async function forgetViews(): Promise<void> {
  window.clearTimeout(due)
  due = undefined
  await orElse(() => clear(store), undefined)
}

/** Keep the views from now on. */
export function keepUp(queries: QueryClient): void {
  persistQueryClientSubscribe({
    queryClient: queries,
    persister,
    buster: __API_VERSION__,
    dehydrateOptions: { shouldDehydrateQuery: isKept(queries), shouldDehydrateMutation: () => false },
  })
}
