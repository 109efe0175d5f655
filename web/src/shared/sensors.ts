/** Sensors that may be chosen by hand, as they are addressed and as they are said. */
export const SENSORS = [1, 2].flatMap((bank) =>
  [1, 2, 3].map((position) => ({ value: `B${bank}S${position}`, label: `Bank ${bank} · sensor ${position}` })),
)

/** Bank and position of an address. */
export function placeOf(address: string): { bank: 1 | 2; position: 1 | 2 | 3 } {
  return { bank: Number(address[1]) as 1 | 2, position: Number(address[3]) as 1 | 2 | 3 }
}

/** The NOx sensors, where a code of the SCR names none of them. */
export const NOX_SENSORS = [
  { value: 'B1S1', label: 'NOx sensor before the SCR' },
  { value: 'B1S2', label: 'NOx sensor after the SCR' },
]
