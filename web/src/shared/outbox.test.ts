import { IDBFactory } from 'fake-indexeddb'
import { beforeEach, expect, test, vi } from 'vitest'
import type { Reading } from '../api/client'

const BODY = { measure: 'voltage', value: '12.4' } as unknown as Reading
const [ANA, BEPPO] = [1, 2]

/** The module as a page that was just loaded has it; what lies on the device stays. */
async function loaded() {
  vi.resetModules()
  return await import('./outbox')
}

beforeEach(() => {
  vi.stubGlobal('indexedDB', new IDBFactory())
})

test('what was put is there after a reload, in the order it was taken, and late', async () => {
  const before = await loaded()
  for (const job of [7, 8, 7]) await before.put(job, BODY, ANA, 'Ana')
  expect(before.waiting.now().map((item) => item.late)).toEqual([false, false, false])
  const after = await loaded()
  await after.recall(ANA)
  expect(after.waiting.now().map((item) => [item.job, item.late, item.name])).toEqual([
    [7, true, 'Ana'],
    [8, true, 'Ana'],
    [7, true, 'Ana'],
  ])
})

test('no two readings have one key', async () => {
  const { put } = await loaded()
  const keys = await Promise.all(Array.from({ length: 50 }, () => put(7, BODY, ANA, 'Ana')))
  expect(new Set(keys.map((item) => item.key)).size).toBe(50)
})

test('what is done is gone, on the page and on the device', async () => {
  const before = await loaded()
  const [first] = [await before.put(7, BODY, ANA, 'Ana'), await before.put(8, BODY, ANA, 'Ana')]
  await before.done(first)
  expect(before.waiting.now().map((item) => item.job)).toEqual([8])
  const after = await loaded()
  await after.recall(ANA)
  expect(after.waiting.now().map((item) => item.job)).toEqual([8])
})

test('of somebody else one sees whose readings there are, of which jobs, and nothing else', async () => {
  const before = await loaded()
  await before.put(7, BODY, ANA, 'Ana')
  await before.put(9, BODY, ANA, 'Ana')
  const after = await loaded()
  await after.recall(BEPPO)
  expect(after.waiting.now()).toEqual([])
  expect(after.othersWaiting.now()).toEqual([{ person: ANA, name: 'Ana', jobs: [7, 9] }])
})

test('where the browser keeps nothing, a reading stays on the page when another person comes', async () => {
  const { put, recall, waiting } = await loaded()
  vi.stubGlobal('indexedDB', undefined)
  await put(7, BODY, ANA, 'Ana')
  await recall(BEPPO)
  expect(waiting.now().map((item) => item.person)).toEqual([ANA])
})

test('what was put off is late', async () => {
  const { put, putOff, waiting } = await loaded()
  const item = await put(7, BODY, ANA, 'Ana')
  putOff(item)
  expect(waiting.now().map((other) => other.late)).toEqual([true])
})
