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

/** What one person began in this browser: drafts, and which cautions were understood. */
const BEGUN = /^(draft|understood-)/

/** Take away all that a person began here. */
export function forgetBegun(): void {
  try {
    for (const key of Object.keys(localStorage)) if (BEGUN.test(key)) localStorage.removeItem(key)
  } catch {
    // nothing was kept then
  }
}

export function forget(key: string): void {
  try {
    localStorage.removeItem(key)
  } catch {
    // nothing was kept then
  }
}
