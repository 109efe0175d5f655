/**
 * Whether someone works with this page. What a page asks by itself keeps nobody signed in; so a page that is touched says so, at most
 * once in each span, with what it asks anyway or with a question of its own.
 */

/** A span, in milliseconds: short where people are asked soon who they are. */
export function spanOf(idleMinutes: number): number {
  return Math.min(60_000, Math.max(2_000, (idleMinutes * 60_000) / 4))
}

export class Attended {
  private touchedAt = -1
  private saidAt = -1
  span = 60_000

  /** Someone touched the page, or typed. now: in milliseconds. */
  touch(now: number): void {
    this.touchedAt = now
  }

  /** Whether it is to be said with the request at hand; then it counts as said. */
  take(now: number): boolean {
    if (!this.due(now)) return false
    this.saidAt = now
    return true
  }

  /** Whether someone touched the page since it was last said, a span ago or longer. */
  due(now: number): boolean {
    return this.touchedAt > this.saidAt && (this.saidAt < 0 || now - this.saidAt >= this.span)
  }
}

export const attended = new Attended()
