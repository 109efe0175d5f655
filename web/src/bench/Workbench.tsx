import { Segmented } from 'antd'
import { useMemo, useState } from 'react'
import { Link, useParams } from 'react-router'
import type { JobView } from '../api/client'
import { useJob } from '../api/jobs'
import { useVehicle } from '../api/vehicle'
import { useWrites, Writers } from '../people/Writers'
import { Boundary } from '../shared/Boundary'
import { Problem } from '../shared/Problem'
import { BenchHead } from './BenchHead'
import { BenchSide } from './BenchSide'
import { CircuitBoard } from './CircuitBoard'
import { begun } from './draft'
import { Ledger } from './Ledger'
import { Meter } from './Meter'
import { type Retry, useBench } from './useBench'
import { probeOf } from './vehicle/probe'
import { VehicleBar } from './vehicle/VehicleBar'
import { WaitingLines } from './WaitingLines'

export function Workbench() {
  const id = Number(useParams()['id'])
  const job = useJob(id)
  if (job.error && !job.data) {
    return (
      <main className="start">
        <Problem error={job.error} />
        <Link to="/">Back to the jobs</Link>
      </main>
    )
  }
  if (!job.data) return <p className="muted waiting">Working out what this circuit would show…</p>
  return <Bench key={id} view={job.data} retry={job.refetch} />
}

/** What a phone shows of the bench, one at a time. */
type BenchTab = 'measure' | 'drawing' | 'could-be' | 'code' | 'ledger'
const TABS: { value: BenchTab; label: string }[] = [
  { value: 'measure', label: 'Measure' },
  { value: 'drawing', label: 'Drawing' },
  { value: 'could-be', label: 'Could be' },
  { value: 'code', label: 'Code' },
  { value: 'ledger', label: 'Ledger' },
]

type Bench = ReturnType<typeof useBench>

function Bench({ view, retry }: { view: JobView; retry: Retry }) {
  const bench = useBench(view, retry)
  const connected = typeof view.case.simulated === 'number'
  const writes = useWrites()
  const probe = useMemo(() => probeOf(bench.draft), [bench.draft])
  const vehicle = useVehicle(view.id, probe, connected && writes)
  const [tall, setTall] = useState(false)
  const [tab, setTab] = useState<BenchTab>('measure')
  return (
    <main className={`bench on-${tab}${tall ? ' tall' : ''}${connected ? ' connected' : ''}`}>
      <BenchHead view={view} />
      <Segmented
        block
        className="bench-tabs"
        aria-label="On this screen"
        value={tab}
        onChange={setTab}
        options={TABS}
      />
      <section className="bench-board" aria-label="The circuit">
        <Boundary what="The drawing" at={view}>
          <CircuitBoard
            view={view}
            draft={bench.draft}
            onTouch={bench.touch}
            shown={bench.shown}
            look={vehicle.fresh ? vehicle.look : undefined}
          />
        </Boundary>
      </section>
      {connected && (
        <Boundary what="The simulated vehicle" at={view}>
          <Writers>
            <VehicleBar
              view={view}
              draft={bench.draft}
              dispatch={bench.dispatch}
              vehicle={vehicle}
              onTake={() => bench.taking.take()}
              writes={writes}
            />
          </Writers>
        </Boundary>
      )}
      <TheMeter view={view} bench={bench} />
      <TheSide view={view} bench={bench} retry={retry} />
      <section className="bench-ledger" aria-label="Ledger">
        <Boundary what="The ledger" at={view}>
          <WaitingLines view={view} />
          <Ledger
            view={view}
            onShow={bench.setShown}
            onAgain={(reading) => bench.beside.mutate(reading)}
            shown={bench.shown}
            tall={tall}
            onTall={setTall}
          />
        </Boundary>
      </section>
    </main>
  )
}

function TheMeter({ view, bench }: { view: JobView; bench: Bench }) {
  const { draft, dispatch, shown, taking } = bench
  const judged = shown === null ? undefined : view.verdict.judged.find((item) => item.reading === shown)
  return (
    <section className="bench-meter" aria-label="The meter">
      <Boundary what="The meter" at={view}>
        <Writers>
          <Meter
            view={view}
            draft={draft}
            dispatch={dispatch}
            onTake={taking.take}
            sending={taking.sending}
            busy={taking.sending || (view.behind === 'working' && !begun(draft))}
            error={taking.error}
            judged={judged}
            shown={shown === null ? undefined : view.ledger[shown]}
          />
        </Writers>
      </Boundary>
    </section>
  )
}

function TheSide({ view, bench, retry }: { view: JobView; bench: Bench; retry: Retry }) {
  const { draft, dispatch, change, beside, follow } = bench
  const again = async () => {
    const { data } = await retry()
    if (data) follow(data)
  }
  return (
    <BenchSide
      view={view}
      draft={draft}
      problem={change.error}
      onRetry={() => void again()}
      onStyle={(style) => change.mutate({ style })}
      onPick={(probe) => dispatch({ type: 'propose', probe })}
      onCannot={(reading, reason) =>
        change.mutate((now) => ({ cannot: [...(now.case.cannot ?? []), { reading, reason }] }))
      }
      onBack={(reading) =>
        change.mutate((now) => ({ cannot: (now.case.cannot ?? []).filter((item) => item.reading !== reading) }))
      }
      onOwn={() => dispatch({ type: 'own' })}
      onVoltage={(system_voltage) => change.mutate({ vehicle: { system_voltage } })}
      onAct={(reading) => beside.mutate(reading)}
    />
  )
}
