import { QueryClient } from '@tanstack/react-query'
import { beforeEach, expect, test, vi } from 'vitest'
import { bringBack, forgetViews, keepUp } from './offlineViews'

const HOUR_MS = 3600_000

beforeEach(async () => {
  await forgetViews()
  vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout', 'Date'] })
  vi.setSystemTime('2026-12-01T08:00:00Z')
  return () => vi.useRealTimers()
})

/** Keep what a page has seen, and what another page of this device then finds. */
async function kept(seen: [unknown[], unknown][], hoursLater = 0): Promise<QueryClient> {
  const before = new QueryClient()
  keepUp(before)
  for (const [key, data] of seen) {
    before.setQueryData(key, data)
    vi.advanceTimersByTime(10)
  }
  await vi.advanceTimersByTimeAsync(2000)
  vi.useRealTimers()
  await new Promise((soon) => setTimeout(soon, 30))
  vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout', 'Date'] })
  vi.setSystemTime(Date.parse('2026-12-01T08:00:05Z') + hoursLater * HOUR_MS)
  const after = new QueryClient()
  await bringBack(after)
  return after
}

test('a job is there again, and is asked for anew', async () => {
  const after = await kept([[['job', 7], { id: 7 }]])
  expect(after.getQueryData(['job', 7])).toEqual({ id: 7 })
  expect(after.getQueryState(['job', 7])?.isInvalidated).toBe(true)
})

test.each([
  [11.9, true],
  [12.1, false],
])('after %f hours a view is shown: %s', async (hours, shown) => {
  const after = await kept([[['job', 7], { id: 7 }]], hours)
  expect(after.getQueryData(['job', 7]) !== undefined).toBe(shown)
})

test('of many jobs the last opened ones, and nothing that is not for keeping', async () => {
  const jobs = Array.from({ length: 15 }, (_, id) => [['job', id], { id }] as [unknown[], unknown])
  const after = await kept([...jobs, [['customer', 3], { name: 'Valley school board' }]])
  const there = after.getQueryCache().findAll({ queryKey: ['job'] })
  expect(there.map((query) => query.queryKey[1])).toEqual([3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14])
  expect(after.getQueryData(['customer', 3])).toBeUndefined()
})

test('what was forgotten is not there', async () => {
  await kept([[['job', 7], { id: 7 }]])
  await forgetViews()
  const after = new QueryClient()
  await bringBack(after)
  expect(after.getQueryData(['job', 7])).toBeUndefined()
})
