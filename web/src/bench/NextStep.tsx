import { Button, Segmented } from 'antd'
import { useState } from 'react'
import { Link, useNavigate } from 'react-router'
import type { JobView, Probe, Schemas } from '../api/client'
import type { Draft } from './draft'
import { useForecast } from '../api/readings'
import { useOpenOther } from '../api/jobs'
import { Explained, rangeFrom } from '../shared/Explained'
import { Cautions } from './Cautions'
import { AfterRepair, BeforeFitting } from '../shared/Gate'
import { Problem } from '../shared/Problem'
import { say, vocabulary } from '../shared/vocabulary'

/** The next reading with its reason, what it should show, what it costs and what can hurt. */
export function NextStep(props: SideProps & { onRetry: () => void }) {
  return props.view.behind === 'failed' ? <Failed onRetry={props.onRetry} /> : <Stepped {...props} />
}

function Failed({ onRetry }: { onRetry: () => void }) {
  return (
    <section className="next" aria-label="Next step">
      <div role="alert">
        <p>
          The reading is in the ledger, but what follows from it could not be worked out. Is the server still running?
        </p>
        <Button onClick={onRetry}>Try again</Button>
      </div>
    </section>
  )
}

export interface SideProps {
  view: JobView
  draft: Draft
  onStyle: (style: JobView['case']['style']) => void
  onPick: (probe: Probe) => void
  onCannot: (reading: string, reason: string) => void
  onBack: (reading: string) => void
  onOwn: () => void
  onVoltage: (volts: 12 | 24) => void
  /** Why the last change of the job was not taken. */
  problem: Error | null
}

function Stepped(props: SideProps) {
  const { verdict, next_words: words } = props.view
  const next = verdict.next
  const working = props.view.behind === 'working'
  return (
    <section className={working ? 'next behind' : 'next'} aria-label="Next step" aria-busy={working} inert={working}>
      {working && <p className="working">Working out what follows…</p>}
      {props.view.asks_voltage && <AskVoltage onSay={props.onVoltage} />}
      {verdict.repair.state !== 'none' && <RepairBar view={props.view} />}
      {verdict.decision !== 'keep-testing' && verdict.repair.state !== 'proven' && (
        <Ended view={props.view} onPick={props.onPick} />
      )}
      {next && words ? (
        <>
          <h2>
            <span>{words.short_step}</span> <span className="figure minutes">{next.minutes} min</span>
          </h2>
          <p className="step-state">{words.state}</p>
          {next.expect && (
            <p className="expect">
              Should read <Explained says={rangeFrom(next.source)}>{next.expect}</Explained>
            </p>
          )}
          <Cautions key={props.view.id} job={props.view.id} lines={next.cautions} />
          <Why text={next.why} key={next.id} />
          {props.draft.own && (
            <Button className="own" onClick={() => props.onPick(next.reading)}>
              Take the proposed one
            </Button>
          )}
          <CannotTake
            key={`cannot ${next.id}`}
            onCannot={(reason) => props.onCannot(next.id, reason)}
            onOwn={props.onOwn}
          />
        </>
      ) : (
        verdict.decision === 'keep-testing' && <Ended view={props.view} onPick={props.onPick} />
      )}
      <JobWarnings view={props.view} />
    </section>
  )
}

/** Another sensor that does not read as it should: a touch opens its job with what was read of it. */
function OtherSensor({ job, found }: { job: number; found: Schemas['OtherFound'] }) {
  const open = useOpenOther(job)
  const navigate = useNavigate()
  return (
    <div className="other-found">
      <Why text={`⚠ ${found.says} ${found.why}`} />
      <Button
        loading={open.isPending}
        onClick={() => open.mutate(found.address, { onSuccess: (view) => void navigate(`/jobs/${view.id}`) })}
      >
        Open a job for {found.address}
      </Button>
      {open.error && <Problem error={open.error} />}
    </div>
  )
}

/** What holds for the whole job, a line each; a touch opens it. */
function JobWarnings({ view }: { view: JobView }) {
  const lines = view.verdict.warnings.filter((item) => item.reading === null || item.reading === undefined)
  if (lines.length === 0 && view.others_found.length === 0) return null
  return (
    <div className="job-warnings" role="group" aria-label="About this job">
      {view.others_found.map((item) => (
        <OtherSensor key={item.address} job={view.id} found={item} />
      ))}
      {lines.map((item) => (
        <Why key={item.warning + item.says} text={`⚠ ${item.says}`} />
      ))}
    </div>
  )
}

/** What every expected voltage and lamp rests on, asked before the first reading. */
function AskVoltage({ onSay }: { onSay: (volts: 12 | 24) => void }) {
  return (
    <div className="ask-first" role="group" aria-label="System voltage">
      <span>Is this a 12 V or a 24 V vehicle?</span>
      <Button onClick={() => onSay(12)}>12 V</Button>
      <Button onClick={() => onSay(24)}>24 V</Button>
    </div>
  )
}

/** One line of the reason; touched it opens. */
function Why({ text }: { text: string }) {
  const [open, setOpen] = useState(false)
  return (
    <button
      type="button"
      className={open ? 'why-line open' : 'why-line'}
      aria-expanded={open}
      onClick={() => setOpen(!open)}
    >
      {text}
    </button>
  )
}

/** Other readings, what lies ahead, what was put aside, and the order of working. */
export function OtherWays(props: SideProps) {
  const { verdict, alternative_words: others } = props.view
  const working = props.view.behind === 'working'
  return (
    <section className={working ? 'next-more behind' : 'next-more'} aria-label="Other ways" inert={working}>
      {verdict.alternatives.map((item, index) => (
        <button key={index} type="button" className="other" onClick={() => props.onPick(item.reading)}>
          <strong>{others[index]?.short_step}</strong> <span className="figure">{item.minutes} min</span>
          <span className="muted other-state">{others[index]?.state}</span>
          <span className="why other-why">{item.why}</span>
        </button>
      ))}
      {verdict.decision === 'keep-testing' && <Ahead view={props.view} />}
      <PutAside view={props.view} onBack={props.onBack} />
      {props.problem && <Problem error={props.problem} />}
      <div className="style-row">
        <Segmented
          options={vocabulary().styles.map((value) => ({ value, label: say(value) }))}
          value={props.view.case.style}
          onChange={(style) => props.onStyle(style)}
          size="small"
          aria-label="Working style"
        />
      </div>
    </section>
  )
}

/** The minutes to certainty, the readings likely on the way, and whether certainty pays. */
function Ahead({ view }: { view: JobView }) {
  const { data: forecast, error } = useForecast(view)
  if (!forecast && error) return <p className="muted ahead-says">What lies ahead could not be worked out.</p>
  if (!forecast) return <p className="muted ahead-says">Working out what lies ahead…</p>
  return (
    <details className="ahead">
      <summary>{forecast.says}</summary>
      <ol>
        {forecast.steps.map((step, index) => (
          <li key={index}>
            {step.says} <span className="figure">{step.minutes} min</span> <span className="muted">{step.state}</span>
          </li>
        ))}
      </ol>
      {forecast.stop ? <p className="stop">{forecast.stop.says}</p> : <StopHint />}
    </details>
  )
}

function StopHint() {
  return (
    <p className="muted">
      With part price and labour rate in the <Link to="/workshop">workshop’s settings</Link>, whether certainty pays
      stands here.
    </p>
  )
}

/** Proposals that could not be taken; each can be brought back. */
function PutAside({ view, onBack }: { view: JobView; onBack: (reading: string) => void }) {
  if (view.put_aside.length === 0) return null
  return (
    <details className="ahead">
      <summary>Put aside: {view.put_aside.length}</summary>
      <ul className="aside">
        {view.put_aside.map(({ reading, reason, words }) => (
          <li key={reading}>
            <span>
              {words ? words.step : reading} <span className="muted">({reason})</span>
            </span>
            <Button onClick={() => onBack(reading)}>Bring it back</Button>
          </li>
        ))}
      </ul>
    </details>
  )
}

const REASONS = ['no tool for it', 'cannot reach it', 'not safe here']

/** The way out of a proposal: it is put aside with a reason, or something else was measured. */
function CannotTake({ onCannot, onOwn }: { onCannot: (reason: string) => void; onOwn: () => void }) {
  const [asking, setAsking] = useState(false)
  if (!asking) {
    return (
      <div className="way-out">
        <Button onClick={() => setAsking(true)}>I can’t take this one</Button>
        <Button onClick={onOwn}>I measured something else</Button>
      </div>
    )
  }
  return (
    <div className="way-out" role="group" aria-label="Why not">
      {REASONS.map((reason) => (
        <Button key={reason} onClick={() => onCannot(reason)}>
          {reason}
        </Button>
      ))}
    </div>
  )
}

/** Where the repair stands, and the way to its proof. */
function RepairBar({ view }: { view: JobView }) {
  return (
    <div className="decision" role="status">
      <h2>{view.summary.title}</h2>
      <p>{view.verdict.repair.says}</p>
      <Link to={`/jobs/${view.id}/mend`} className="quiet">
        Proof and hand-over
      </Link>
    </div>
  )
}

function Ended({ view, onPick }: { view: JobView; onPick: (probe: Probe) => void }) {
  const { verdict } = view
  const unproven = view.summary.parts.filter((item) => item.by.length === 0)
  const forecast = useForecast(view).data
  return (
    <>
      <div className="decision" role="status">
        <h2>{view.summary.title}</h2>
        <p>{verdict.says}</p>
        {verdict.before_fitting.length === 0 && !verdict.between && <p>{forecast?.says}</p>}
        <p>
          <Link to={`/jobs/${view.id}/mend`} className="quiet">
            Mend it: repair sheet
          </Link>{' '}
          <Link to={`/jobs/${view.id}/sheet`} className="quiet">
            Decision sheet
          </Link>
        </p>
      </div>
      <BeforeFitting view={view} onPick={onPick} />
      {verdict.after_repair.length > 0 && (
        <>
          <h3>Read after the repair</h3>
          <AfterRepair view={view} />
        </>
      )}
      <h3>Why</h3>
      {verdict.because.map((line) => (
        <p key={line} className="why">
          {line}
        </p>
      ))}
      <h3>What would change it</h3>
      {verdict.would_change_it.map((line) => (
        <p key={line} className="why">
          {line}
        </p>
      ))}
      {unproven.length > 0 && (
        <p className="muted">Not proven either way: {unproven.map((item) => item.label).join(', ')}.</p>
      )}
    </>
  )
}
