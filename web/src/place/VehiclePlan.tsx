import type { Schemas } from '../api/client'

type Plan = Schemas['Plan']
type Placed = Plan['parts'][number]
type PlacedSensor = Plan['sensors'][number]

/** The vehicle from above, front up: drawn as the core placed it. */
export function VehiclePlan({ plan }: { plan: Plan }) {
  const coded = plan.sensors.filter((sensor) => sensor.role === 'coded')
  const named = coded.map((sensor) => `${sensor.address}, ${sensor.words}`).join('; ')
  return (
    <svg
      viewBox={`0 0 ${plan.width} ${plan.height}`}
      className="plan"
      role="img"
      aria-label={`The vehicle from above. In question: ${named}`}
    >
      <text x={plan.width / 2} y={11} textAnchor="middle" className="plan-side">
        front
      </text>
      <text
        x={12}
        y={plan.height / 2}
        textAnchor="middle"
        transform={`rotate(-90 12 ${plan.height / 2})`}
        className="plan-side"
      >
        {plan.left}
      </text>
      <text
        x={plan.width - 12}
        y={plan.height / 2}
        textAnchor="middle"
        transform={`rotate(90 ${plan.width - 12} ${plan.height / 2})`}
        className="plan-side"
      >
        {plan.right}
      </text>
      {plan.parts.map((part, index) => (
        <Part key={index} part={part} />
      ))}
      {plan.sensors.map((sensor) => (
        <Sensor key={sensor.address} sensor={sensor} />
      ))}
    </svg>
  )
}

function Part({ part }: { part: Placed }) {
  const { box, path } = part
  if (!box) return <path d={`M${path.map((point) => point.join(' ')).join('L')}`} className={`plan-${part.kind}`} />
  const round = part.kind === 'cylinder' ? box.width / 2 : part.kind === 'body' ? 36 : 5
  return (
    <g className={`plan-part plan-${part.kind}`}>
      <rect x={box.x} y={box.y} width={box.width} height={box.height} rx={round} />
      {part.text && (
        <text
          x={box.x + box.width / 2}
          y={box.y + box.height / 2 + 4.5}
          textAnchor="middle"
          fontSize={Math.min(13, box.width * 0.7)}
        >
          {part.text}
        </text>
      )}
    </g>
  )
}

function Sensor({ sensor }: { sensor: PlacedSensor }) {
  const { label } = sensor
  return (
    <g className={`plan-sensor ${sensor.role}`}>
      <title>{sensor.words}</title>
      <circle cx={sensor.x} cy={sensor.y} r={sensor.role === 'coded' ? 9 : 6} />
      <path d={`M${sensor.x} ${sensor.y}H${label.x > sensor.x ? label.x : label.x + label.width}`} />
      <rect x={label.x} y={label.y} width={label.width} height={label.height} rx={4} />
      <text x={label.x + label.width / 2} y={label.y + 15.5} textAnchor="middle">
        {sensor.address}
        {sensor.role === 'twin' ? ' twin' : ''}
      </text>
    </g>
  )
}
