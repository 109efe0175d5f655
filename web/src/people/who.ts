import { signal } from '../shared/signal'

/** Whether it is asked who works with this page. */
const asked = signal(false)

export const who = {
  ask: () => asked.tell(true),
  done: () => asked.tell(false),
  asked: asked.now,
  subscribe: asked.subscribe,
}
