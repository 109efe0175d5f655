/** One thing to tell above every page: a part of the front end that could not be loaded. Empty for nothing. */
let told = ''
const listeners = new Set<() => void>()

export function tell(text: string): void {
  told = text
  listeners.forEach((listener) => listener())
}

export const notice = {
  subscribe: (listener: () => void) => {
    listeners.add(listener)
    return () => void listeners.delete(listener)
  },
  now: () => told,
}
