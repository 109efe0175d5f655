/** Readings on their way: each is kept on this device before it is sent, and until the server has it. */
import { createStore, del, entries, set } from 'idb-keyval'
import type { Reading } from '../api/client'
import { signal } from './signal'

/**
 * One reading. person, name: who took it, and nobody else's name is ever sent with it; key: with it nothing is noted twice;
 * late: it was tried, and waits for a later try.
 */
export interface Waiting {
  key: string
  job: number
  body: Reading
  person: number
  name: string
  late: boolean
}

const store = createStore('dianoia-outbox', 'readings')
/** What waits, in the order it was taken. */
export const waiting = signal<Waiting[]>([])

/** What an earlier page of this device has left; a browser that keeps nothing has left nothing. */
export async function recall(): Promise<void> {
  const found = await entries<string, Waiting>(store).catch(() => [])
  const known = new Set(waiting.now().map((item) => item.key))
  const left = found.map(([, item]) => ({ ...item, late: true })).filter((item) => !known.has(item.key))
  if (left.length > 0) waiting.tell([...left, ...waiting.now()].sort(inOrder))
}

/** Keep a reading; it is sent under a key that no other has, and that says when it was taken. */
export async function put(job: number, body: Reading, person: number, name: string): Promise<Waiting> {
  const random = [...crypto.getRandomValues(new Uint8Array(12))].map((byte) => byte.toString(16).padStart(2, '0')).join('')
  const item = { key: `${Date.now().toString(36)}-${count++}-${random}`, job, body, person, name, late: false }
  waiting.tell([...waiting.now(), item])
  await set(item.key, item, store).catch(() => undefined)
  return item
}

let count = 0

/** It was tried, and is tried again later. */
export function putOff(item: Waiting): void {
  waiting.tell(waiting.now().map((other) => (other.key === item.key ? { ...other, late: true } : other)))
}

/** The server has it, or has refused it. */
export async function done(item: Waiting): Promise<void> {
  waiting.tell(waiting.now().filter((other) => other.key !== item.key))
  await del(item.key, store).catch(() => undefined)
}

const inOrder = (one: Waiting, other: Waiting) => {
  const [a, b] = [one, other].map((item) => item.key.split('-'))
  return parseInt(a?.[0] ?? '', 36) - parseInt(b?.[0] ?? '', 36) || Number(a?.[1]) - Number(b?.[1])
}
