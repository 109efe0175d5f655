/** A number as typed, or null where nothing is. A comma counts as a point; what is no number goes to the server, which says so. */
export function typedNumber(text: string | undefined): number | string | null {
  const trimmed = text?.trim() ?? ''
  if (trimmed === '') return null
  const number = Number(trimmed.replace(',', '.'))
  return Number.isNaN(number) ? trimmed : number
}

/** Both ends of a range, or null where both are empty. */
export function typedRange([low, high]: [string, string]): [number | string | null, number | string | null] | null {
  const ends: [number | string | null, number | string | null] = [typedNumber(low), typedNumber(high)]
  return ends[0] === null && ends[1] === null ? null : ends
}
