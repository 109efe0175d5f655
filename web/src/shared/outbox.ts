/**
 * Readings on their way: each is kept on this device before it is sent, and until the server has it. Each person's are kept apart: a
 * page reads only those of who works with it, and of the others only whose they are and how many. They are not encrypted.
 */
import { clear, createStore, del, entries, get, keys, set, update } from 'idb-keyval'
import type { Reading } from '../api/client'
import { orElse } from './orElse'
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

/** Readings of somebody else that wait on this device for them to sign in. jobs: of each its job. */
export interface OthersWaiting {
  person: number
  name: string
  jobs: number[]
}

/** What waits of who works with this page, in the order it was taken. */
export const waiting = signal<Waiting[]>([])
export const othersWaiting = signal<OthersWaiting[]>([])

/** Whose readings there are on this device: number -> name. */
const people = createStore('dianoia-outbox-people', 'people')
const NAMES = 'names'
/** Until 0.1 all people's readings lay in one store. */
const together = createStore('dianoia-outbox', 'readings')

/** Keys of readings that this browser could not keep: they are in this page only, and stay there whoever works with it. */
const unkept = new Set<string>()

const stores = new Map<number, ReturnType<typeof createStore>>()
function storeOf(person: number) {
  const store = stores.get(person) ?? createStore(`dianoia-outbox-${person}`, 'readings')
  stores.set(person, store)
  return store
}

/** What an earlier page of this device has left; a browser that keeps nothing has left nothing. me: who works with this page. */
export async function recall(me: number | undefined): Promise<void> {
  await orElse(apart, undefined)
  const names = await orElse(() => get<Record<number, string>>(NAMES, people), undefined)
  const mine = me === undefined ? [] : await orElse(() => entries<string, Waiting>(storeOf(me)), [])
  const here = waiting.now().filter((item) => item.person === me || unkept.has(item.key))
  const known = new Set(here.map((item) => item.key))
  const left = mine.map(([, item]) => ({ ...item, late: true })).filter((item) => !known.has(item.key))
  waiting.tell([...left, ...here].sort(inOrder))
  othersWaiting.tell(await countOthers(names ?? {}, me))
}

async function countOthers(names: Record<number, string>, me: number | undefined): Promise<OthersWaiting[]> {
  const others = Object.entries(names).filter(([person]) => Number(person) !== me)
  const counted = others.map(async ([person, name]) => {
    const there = await orElse(() => keys(storeOf(Number(person))), [])
    return {
      person: Number(person),
      name,
      jobs: there.map((key) => Number(typeof key === 'string' ? key.split('/')[1] : key)),
    }
  })
  return (await Promise.all(counted)).filter((item) => item.jobs.length > 0)
}

/** Move what lies in the store of all into each person's own. */
async function apart(): Promise<void> {
  const found = await entries<string, Waiting>(together)
  if (found.length === 0) return
  for (const [, item] of found) await keepIn(item)
  await clear(together)
}

/** Where a reading lies in its person's store: its job can be told without reading it. */
const placeOf = (item: Waiting) => `${item.key}/${item.job}`

async function keepIn(item: Waiting): Promise<void> {
  await update<Record<number, string>>(NAMES, (names) => ({ ...names, [item.person]: item.name }), people)
  await set(placeOf(item), item, storeOf(item.person))
}

/** Keep a reading; it is sent under a key that no other has, and that says when it was taken. */
export async function put(job: number, body: Reading, person: number, name: string): Promise<Waiting> {
  const random = [...crypto.getRandomValues(new Uint8Array(12))]
    .map((byte) => byte.toString(16).padStart(2, '0'))
    .join('')
  const item = { key: `${Date.now().toString(36)}-${count++}-${random}`, job, body, person, name, late: false }
  waiting.tell([...waiting.now(), item])
  if (!(await orElse(() => keepIn(item).then(() => true), false))) unkept.add(item.key)
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
  await orElse(() => del(placeOf(item), storeOf(item.person)), undefined)
}

const inOrder = (one: Waiting, other: Waiting) => {
  const [a, b] = [one, other].map((item) => item.key.split('-'))
  return parseInt(a?.[0] ?? '', 36) - parseInt(b?.[0] ?? '', 36) || Number(a?.[1]) - Number(b?.[1])
}
