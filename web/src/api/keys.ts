/** Keys of requests that add something: sent again with the same key, nothing is added twice. */
import { forget, keep, kept } from '../shared/browserStore'

interface Attempt {
  body: string
  key: string
}

/** A key that no other request has; crypto.randomUUID needs https, which a bench has not. */
function newKey(): string {
  return [...crypto.getRandomValues(new Uint8Array(16))].map((byte) => byte.toString(16).padStart(2, '0')).join('')
}

/** The key for what is sent to a place: the one it was sent with before, as long as no answer came, a reload between included. */
export function keyFor(place: string, body: unknown): string {
  const text = JSON.stringify(body)
  const before = kept<Attempt>(`sent-${place}`)
  if (before?.body === text) return before.key
  const attempt = { body: text, key: newKey() }
  keep(`sent-${place}`, attempt)
  return attempt.key
}

/** An answer came: the next like it is another. */
export function answeredAt(place: string): void {
  forget(`sent-${place}`)
}
