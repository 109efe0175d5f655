import { Input } from 'antd'
import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { type ReactNode, useState } from 'react'
import { Link } from 'react-router'
import { answered, client, type Schemas } from '../api/client'
import { Corner } from '../shared/Corner'
import { Problem } from '../shared/Problem'

/** Sums that are wanted between two readings, worked out by the same laws as the circuit. */
export function SumsPage() {
  return (
    <main className="sums">
      <header className="bench-head">
        <Link to="/" className="quiet">
          ← Jobs
        </Link>
        <h1>Quick sums</h1>
        <Corner />
      </header>
      <HeaterCard />
      <ColdCard />
      <PwmCard />
    </main>
  )
}

function HeaterCard() {
  const [ohms, setOhms] = useState('6')
  const [amps, setAmps] = useState('')
  const [volts, setVolts] = useState('13.8')
  const heater = useSum<Schemas['HeaterSum']>(['heater', ohms, volts], ohms !== '', () =>
    client.GET('/api/sums/heater', { params: { query: { ohms_20c: ohms, volts } } }),
  )
  const back = useSum<Schemas['At20']>(['resistance', amps, volts], amps !== '', () =>
    client.GET('/api/sums/resistance', { params: { query: { amps, volts } } }),
  )
  return (
    <Card
      title="Heater: ohms to amps and back"
      picture={<HeaterPicture volts={volts} ohms={ohms} />}
      error={heater.error ?? back.error}
    >
      <Field label="Supply, V" value={volts} onChange={setVolts} />
      <Field label="Element at 20 °C, ohm" value={ohms} onChange={setOhms} />
      {heater.data && <Answers rows={heater.data.rows} />}
      <Field label="Or a measured current, A" value={amps} onChange={setAmps} />
      {back.data && <Answers rows={[{ name: 'resistance behind it', value: back.data.said }]} />}
    </Card>
  )
}

function ColdCard() {
  const [ohms, setOhms] = useState('14')
  const [celsius, setCelsius] = useState('300')
  const sum = useSum<Schemas['At20']>(['at20', ohms, celsius], ohms !== '' && celsius !== '', () =>
    client.GET('/api/sums/at-20', { params: { query: { ohms, celsius } } }),
  )
  return (
    <Card title="Resistance carried to 20 °C" picture={<SlopePicture />} error={sum.error}>
      <Field label="Measured, ohm" value={ohms} onChange={setOhms} />
      <Field label="Element at, °C" value={celsius} onChange={setCelsius} />
      {sum.data && <Answers rows={[{ name: 'at 20 °C', value: sum.data.said }]} />}
    </Card>
  )
}

function PwmCard() {
  const [volts, setVolts] = useState('13.8')
  const [duty, setDuty] = useState('70 %')
  const [meter, setMeter] = useState('')
  const sum = useSum<Schemas['PwmSum']>(['pwm', volts, duty, meter], duty !== '' || meter !== '', () =>
    client.GET('/api/sums/pwm', { params: { query: { volts, duty, meter_v: meter } } }),
  )
  return (
    <Card
      title="Pulsed wire: average against duty"
      picture={<PulsePicture duty={sum.data?.duty ?? 0.7} />}
      error={sum.error}
    >
      <Field label="Battery, V" value={volts} onChange={setVolts} />
      <Field
        label="Driven (low), %"
        value={duty}
        onChange={(text) => {
          setDuty(text)
          setMeter('')
        }}
      />
      <Field label="Or what the meter shows, V" value={meter} onChange={setMeter} />
      {sum.data && <Answers rows={sum.data.rows} />}
    </Card>
  )
}

function useSum<T>(
  key: string[],
  enabled: boolean,
  ask: () => Promise<{ data?: unknown; error?: unknown; response: Response }>,
) {
  return useQuery<T>({
    queryKey: ['sum', ...key],
    enabled,
    retry: false,
    placeholderData: keepPreviousData,
    queryFn: () => answered<T>(ask()),
  })
}

function Card({
  title,
  picture,
  error,
  children,
}: {
  title: string
  picture: ReactNode
  error: Error | null
  children: ReactNode
}) {
  return (
    <section className="sum" aria-label={title}>
      <h2>{title}</h2>
      {picture}
      {children}
      {error && <Problem error={error} />}
    </section>
  )
}

function Field({ label, value, onChange }: { label: string; value: string; onChange: (value: string) => void }) {
  return (
    <label className="choice-row">
      <span>{label}</span>
      <Input className="figure" value={value} onChange={(event) => onChange(event.target.value)} />
    </label>
  )
}

function Answers({ rows }: { rows: Schemas['SumRow'][] }) {
  return (
    <div role="status">
      <dl>
        {rows.map(({ name, value }) => (
          <div key={name}>
            <dt>{name}</dt>
            <dd className="figure">{value}</dd>
          </div>
        ))}
      </dl>
    </div>
  )
}

function HeaterPicture({ volts, ohms }: { volts: string; ohms: string }) {
  return (
    <svg viewBox="0 0 300 90" aria-hidden="true" className="sum-picture">
      <path d="M30 20H120 M200 20H270V70H30V20" />
      <path d="M120 20l8 -12l14 24l14 -24l14 24l14 -24l14 24l2 -12" />
      <text x="160" y="58" textAnchor="middle">
        {ohms} ohm
      </text>
      <text x="22" y="50" textAnchor="end" transform="rotate(-90 22 50)">
        {volts} V
      </text>
    </svg>
  )
}

function SlopePicture() {
  return (
    <svg viewBox="0 0 300 90" aria-hidden="true" className="sum-picture">
      <path d="M30 80V10 M30 80H285" />
      <path d="M40 72L280 16L280 34L40 72" className="filled" />
      <text x="270" y="74" textAnchor="end">
        hotter
      </text>
      <text x="40" y="22">
        ohms
      </text>
    </svg>
  )
}

function PulsePicture({ duty }: { duty: number }) {
  const low = 70 * duty
  const period = `h${70 - low}v48h${low}v-48`
  return (
    <svg viewBox="0 0 300 90" aria-hidden="true" className="sum-picture">
      <path d={`M10 20${period}${period}${period}${period}`} />
      <path d={`M10 ${20 + 48 * duty}H290`} className="mean" />
      <path d="M112 83h26" className="mean" />
      <text x="290" y="88" textAnchor="end">
        what the meter shows
      </text>
    </svg>
  )
}
