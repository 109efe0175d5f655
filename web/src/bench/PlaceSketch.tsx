/** Bank and position as a plain sketch of the exhaust: two banks, front sensor, catalyst, rear sensor. */
export function PlaceSketch({ bank, position, help }: { bank: number | null; position: number | null; help: string }) {
  return (
    <figure className="place">
      <svg viewBox="0 0 220 112" role="img" aria-label={`Bank ${bank ?? '?'}, sensor ${position ?? '?'}`}>
        {[1, 2].map((row) => (
          <Bank key={row} row={row} lit={row === bank ? position : null} />
        ))}
      </svg>
      <figcaption>{help}</figcaption>
    </figure>
  )
}

function Bank({ row, lit }: { row: number; lit: number | null }) {
  const y = row === 1 ? 30 : 84
  return (
    <g className={lit ? 'bank lit' : 'bank'}>
      <text x="2" y={y - 14}>
        bank {row}
      </text>
      <path d={`M6 ${y - 8}h26v16h-26z M32 ${y}h64 M146 ${y}h66`} className="pipe" />
      <rect x="96" y={y - 12} width="50" height="24" rx="6" className="pipe" />
      <text x="121" y={y + 5} textAnchor="middle">
        cat
      </text>
      <Spot x={64} y={y} name="1" lit={lit === 1} />
      <Spot x={180} y={y} name="2" lit={lit === 2} />
      {lit === 3 && <Spot x={204} y={y} name="3" lit />}
    </g>
  )
}

function Spot({ x, y, name, lit }: { x: number; y: number; name: string; lit: boolean }) {
  return (
    <g className={lit ? 'spot lit' : 'spot'}>
      <circle cx={x} cy={y} r={lit ? 12 : 8} />
      <text x={x} y={y + 4.5} textAnchor="middle">
        {name}
      </text>
    </g>
  )
}
