/** One value that parts of a page watch, whoever sets it. */
export function signal<T>(first: T) {
  let value = first
  const listeners = new Set<() => void>()
  return {
    now: () => value,
    tell: (next: T) => {
      value = next
      listeners.forEach((listener) => listener())
    },
    subscribe: (listener: () => void) => {
      listeners.add(listener)
      return () => void listeners.delete(listener)
    },
  }
}
