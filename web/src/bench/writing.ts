/** A reason being typed in the ledger keeps the keyboard. */
export function writingElsewhere(display: HTMLInputElement | null): boolean {
  const active = document.activeElement
  return active instanceof HTMLInputElement && active !== display
}
