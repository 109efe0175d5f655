import { type QueryClient, useQueryClient } from '@tanstack/react-query'
import { useEffect } from 'react'
import { done, othersWaiting, putOff, recall, type Waiting, waiting } from '../shared/outbox'
import { answered, client, type JobView, Refused, saidNo, type Taken } from './client'

/** A reading that is kept on this device, and waits. */
export class Waits extends Error {}

/** Answers by which the server takes nothing in, and a later try may do: nobody signed in, someone else, too many requests. */
const LATER = [401, 409, 429]

/** Send one that is kept. Raises Refused where the server will never take it, and Waits where it stays kept. */
export async function send(item: Waiting): Promise<Taken> {
  try {
    const header = { 'Idempotency-Key': item.key, 'X-Person': String(item.person) }
    const taken = await answered<Taken>(
      client.POST('/api/jobs/{number}/readings', { params: { header, path: { number: item.job } }, body: item.body }),
      'writing',
    )
    await done(item)
    return taken
  } catch (error) {
    if (saidNo(error) && error instanceof Refused && !LATER.includes(error.status)) {
      await done(item)
      throw error
    }
    putOff(item)
    throw new Waits(error instanceof Error ? error.message : '')
  }
}

const TRY_EVERY_MS = 3000

/** Send what waits, as soon as there is a server again, each person's under their own name; one page of this device does it. */
export function useSending(me: number | undefined): void {
  const queries = useQueryClient()
  useEffect(() => {
    void recall(me)
    const go = () => void sendAll(queries, me)
    const timer = window.setInterval(go, TRY_EVERY_MS)
    window.addEventListener('online', go)
    return () => {
      window.clearInterval(timer)
      window.removeEventListener('online', go)
    }
  }, [queries, me])
}

async function sendAll(queries: QueryClient, me: number | undefined): Promise<void> {
  if (waiting.now().length === 0 || me === undefined) return
  await alone(async () => {
    // a job's readings keep their order: what is somebody else's holds up what waits behind it
    const stopped = new Set(othersWaiting.now().flatMap((item) => item.jobs))
    for (const item of waiting.now()) {
      if (stopped.has(item.job) || item.person !== me || !item.late) {
        stopped.add(item.job)
        continue
      }
      try {
        await send(item)
        void queries.invalidateQueries({ queryKey: ['job', item.job] })
      } catch (error) {
        stopped.add(item.job)
        if (error instanceof Refused) refusedLater(queries, item, error)
      }
    }
  })
}

/** One that the server does not take after all is told with its job, value and all. */
function refusedLater(queries: QueryClient, item: Waiting, error: Refused): void {
  const value = 'value' in item.body ? JSON.stringify(item.body.value) : ''
  queries.setQueryData<JobView>(
    ['job', item.job],
    (view) => view && { ...view, notTaken: `${value} was not taken: ${error.message}` },
  )
}

async function alone(work: () => Promise<void>): Promise<void> {
  if ('locks' in navigator)
    await navigator.locks.request('dianoia-outbox', { ifAvailable: true }, (lock) => (lock ? work() : undefined))
  else await work()
}
