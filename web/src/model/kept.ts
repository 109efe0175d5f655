/** What a screen keeps in this browser across a reload. Unreadable or missing content is simply not there. */
export function kept<T>(key: string): T | null {
  try {
    const text = localStorage.getItem(key)
    return text === null ? null : (JSON.parse(text) as T)
  } catch {
    return null
  }
}

export function keep(key: string, value: unknown): void {
  try {
    localStorage.setItem(key, JSON.stringify(value))
  } catch {
    // a full or forbidden store only loses the draft
  }
}

export function forget(key: string): void {
  try {
    localStorage.removeItem(key)
  } catch {
    // nothing was kept then
  }
}
