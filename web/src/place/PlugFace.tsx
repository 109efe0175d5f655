import { Segmented } from 'antd'
import { useState } from 'react'
import type { Schemas } from '../api/client'
import { keep, kept } from '../shared/browserStore'

type Plug = Schemas['Plug']
type Face = 'mating' | 'wire'

/** The loom's half of the plug. The two faces are mirror images; which one is looked at is remembered. */
export function PlugFace({ plug }: { plug: Plug }) {
  const [face, setFace] = useState<Face>(() => kept<Face>('plug-face') ?? 'wire')
  const choose = (next: Face) => {
    keep('plug-face', next)
    setFace(next)
  }
  const across = (x: number) => (face === 'mating' ? x : plug.width - x)
  return (
    <section className="plug" aria-label="The plug">
      <Segmented<Face>
        block
        aria-label="Seen from"
        value={face}
        onChange={choose}
        options={[
          { value: 'wire', label: 'Wire side' },
          { value: 'mating', label: 'Mating face' },
        ]}
      />
      <svg
        viewBox={`-6 -10 ${plug.width + 12} ${plug.height + 34}`}
        role="img"
        aria-label={`Loom half, seen from the ${face === 'wire' ? 'wire side' : 'mating face'}`}
      >
        <rect x={6} y={6} width={plug.width - 12} height={plug.height - 12} rx={12} className="shell" />
        <rect x={plug.width / 2 - 22} y={-6} width={44} height={12} rx={3} className="shell latch" />
        {plug.cavities.map((cavity) => (
          <g key={cavity.number} className={plug.heater_pair.includes(cavity.number) ? 'cavity pair' : 'cavity'}>
            <rect x={across(cavity.x) - 19} y={cavity.y - 22} width={38} height={38} rx={face === 'wire' ? 19 : 4} />
            <text x={across(cavity.x)} y={cavity.y + 3} textAnchor="middle">
              {cavity.number}
            </text>
          </g>
        ))}
        <text x={plug.width / 2} y={plug.height + 18} textAnchor="middle" className="caption">
          lock tab up, {face === 'wire' ? 'wires towards you' : 'looking into the loom half'}
        </text>
      </svg>
      <ul className="plain cavities">
        {plug.cavities.map((cavity) => (
          <li key={cavity.number}>
            <span className="figure">{cavity.number}</span> {cavity.label}
            {cavity.colour && ` · ${cavity.colour}`}
            {cavity.assumed && <span className="muted"> usual, not confirmed</span>}
          </li>
        ))}
      </ul>
      <p className="why">{plug.advice}</p>
      {plug.contradictions.map((line) => (
        <p key={line} className="trap">
          {line}
        </p>
      ))}
    </section>
  )
}
