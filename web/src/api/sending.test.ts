import { IDBFactory } from 'fake-indexeddb'
import { beforeEach, expect, test, vi } from 'vitest'
import { server } from '../../tests/network'
import { done, put, waiting } from '../shared/outbox'
import { Refused, type Reading } from './client'
import { send, Waits } from './sending'

const BODY = { measure: 'voltage', value: '12.4' } as unknown as Reading
const TAKEN = { place: 0 }

beforeEach(async () => {
  vi.stubGlobal('indexedDB', new IDBFactory())
  for (const item of waiting.now()) await done(item)
})

test('a reading is sent under its key and its person’s name, and is then no longer kept', async () => {
  const asked = server(() => ({ status: 201, body: TAKEN }))
  const item = await put(7, BODY, 1, 'Ana')
  expect(await send(item)).toEqual(TAKEN)
  expect([asked[0]?.path, asked[0]?.body]).toEqual(['/api/jobs/7/readings', BODY])
  expect([asked[0]?.headers.get('Idempotency-Key'), asked[0]?.headers.get('X-Person')]).toEqual([item.key, '1'])
  expect(waiting.now()).toEqual([])
})

test.each([
  ['no answer', undefined],
  ['nobody signed in', 401],
  ['someone else took it', 409],
  ['too many requests', 429],
  ['a fault of the server’s', 500],
])('it stays kept, and late, after %s', async (_, status) => {
  server(() => (status ? { status, body: { message: 'no' } } : undefined))
  const item = await put(7, BODY, 1, 'Ana')
  await expect(send(item)).rejects.toBeInstanceOf(Waits)
  expect(waiting.now()).toEqual([{ ...item, late: true }])
})

test('what the server will never take is told, and no longer kept', async () => {
  const findings = [{ field: 'value', expected: 'a number', got: 'x' }]
  server(() => ({ status: 422, body: { message: 'value: expected a number', findings } }))
  const refusal: unknown = await send(await put(7, BODY, 1, 'Ana')).catch((error: unknown) => error)
  expect(refusal).toBeInstanceOf(Refused)
  expect([(refusal as Refused).problem.findings, waiting.now()]).toEqual([findings, []])
})
