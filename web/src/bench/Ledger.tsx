import { KINDS } from './measures'
import { Button, Input, Segmented } from 'antd'
import { memo, useCallback, useState } from 'react'
import type { JobView, Reading } from '../api/client'
import { useStrike, useWithout } from '../api/readings'
import { useAddReadingPhoto } from '../api/repairs'
import { rangeFrom } from '../shared/Explained'
import { PhotoStrip } from '../shared/PhotoStrip'
import { Problem } from '../shared/Problem'
import { Writers } from '../people/Writers'
import { judgement, say, vocabulary } from '../shared/vocabulary'
import { Connect } from './vehicle/Connect'

interface Opened {
  place: number
  what: 'whole' | 'strike' | 'without'
}

type Filter = 'all' | 'bad' | 'struck' | 'others'
const FILTERS: { value: Filter; label: string }[] = [
  { value: 'all', label: 'all' }, { value: 'bad', label: 'bad' }, { value: 'others', label: 'other parts' }, { value: 'struck', label: 'struck' },
] // prettier-ignore

function passes(view: JobView, place: number, filter: Filter): boolean {
  const reading = view.case.readings[place]
  const struck = Boolean(reading?.struck)
  if (filter === 'struck') return struck
  if (filter === 'bad') return !struck && view.verdict.judged[place]?.result === 'fail'
  return filter === 'all' || Boolean(reading && 'of' in reading && reading.of)
}

/** All readings in order, newest first. A correction strikes out; nothing is changed or removed. */
export function Ledger(props: {
  view: JobView
  shown: number | null
  onShow: (place: number) => void
  onAgain: (reading: Reading) => void
  tall: boolean
  onTall: (tall: boolean) => void
}) {
  const { view } = props
  const [open, setOpen] = useState<Opened | null>(null)
  const [filter, setFilter] = useState<Filter>('all')
  // touched again it closes
  const toggle = useCallback(
    (wanted: Opened) => setOpen((was) => (was?.place === wanted.place && was.what === wanted.what ? null : wanted)),
    [],
  )
  if (view.ledger.length === 0) {
    return (
      <div className="muted ledger-empty">
        <p>
          No readings yet. The first one proposed is laid out on the drawing: type what the meter shows, then Enter.
        </p>
        <Connect view={view} />
      </div>
    )
  }
  const places = view.ledger
    .map((_, place) => place)
    .filter((place) => passes(view, place, filter))
    .reverse()
  return (
    <>
      <div className="ledger-head">
        <strong>Ledger</strong> <span className="muted">{view.ledger.length}</span>
        <Segmented size="small" aria-label="Which readings" value={filter} onChange={setFilter} options={FILTERS} />
        <Button size="small" aria-expanded={props.tall} onClick={() => props.onTall(!props.tall)}>
          {props.tall ? 'Small again' : 'Full height'}
        </Button>
      </div>
      {places.length === 0 && <p className="muted ledger-empty">No readings of this kind.</p>}
      <ol className="ledger" reversed>
        {places.map((place) => (
          <li
            key={place}
            className={`line ${result(view, place)} ${props.shown === place ? 'shown' : ''}`}
            value={place + 1}
          >
            <Line
              words={view.ledger[place]}
              reading={view.case.readings[place]}
              judged={view.verdict.judged[place]}
              beside={besideOf(view, place)}
              photos={view.photos[place]?.length ?? 0}
              place={place}
              open={open?.place === place}
              onShow={props.onShow}
              onOpen={toggle}
            />
            {open?.place === place && <Whole view={view} place={place} onOpen={toggle} onAgain={props.onAgain} />}
            {open?.place === place && open.what === 'strike' && (
              <StrikeForm view={view} place={place} onDone={() => setOpen(null)} />
            )}
            {open?.place === place && open.what === 'without' && <Without view={view} place={place} />}
          </li>
        ))}
      </ol>
    </>
  )
}

/** What was read of other parts, or at another time, at the same points. */
function besideOf(view: JobView, place: number): string {
  return (view.compared[place]?.beside ?? [])
    .map((item) => `${item.whose} ${view.ledger[item.place]?.value}`)
    .join(' · ')
}

/** All that is known of a reading, and what can be done with it. */
function Whole({
  view,
  place,
  onOpen,
  onAgain,
}: {
  view: JobView
  place: number
  onOpen: (open: Opened) => void
  onAgain: (reading: Reading) => void
}) {
  const [words, reading, judged] = [view.ledger[place], view.case.readings[place], view.verdict.judged[place]]
  if (!words || !reading || !judged) return null
  return (
    <div className="line-whole">
      <p>
        <strong>{words.step}</strong>
      </p>
      <p>{judged.says}</p>
      {judged.expected && <p className="muted">{rangeFrom(judged.source)}</p>}
      {besideOf(view, place) && <p>Beside it: {besideOf(view, place)}</p>}
      {reading.note && <p>Note: {reading.note}</p>}
      <Who view={view} place={place} />
      <Photos view={view} place={place} of={words.step} />
      {!reading.struck && (
        <span className="line-acts">
          <Button onClick={() => onOpen({ place, what: 'without' })}>Without it?</Button>
          <Writers>
            {reading.measure !== 'act' && <Again reading={reading} checks={vocabulary().checks} onAgain={onAgain} />}
            <Button onClick={() => onOpen({ place, what: 'strike' })}>Strike</Button>
          </Writers>
        </span>
      )}
    </div>
  )
}

/** Photos of a reading, as of a screen or a plug. */
function Photos({ view, place, of }: { view: JobView; place: number; of: string }) {
  const photo = useAddReadingPhoto(view.id)
  return (
    <Writers>
      <PhotoStrip
        of={of}
        numbers={view.photos[place] ?? []}
        sending={photo.isPending}
        onAdd={(file) => photo.mutate({ place, photo: file })}
      />
      {photo.error && <Problem error={photo.error} />}
    </Writers>
  )
}

/** The same value read a second time: a touch says what was done against a slip meanwhile, and notes it. */
function Again({
  reading,
  checks,
  onAgain,
}: {
  reading: Reading
  checks: readonly string[]
  onAgain: (reading: Reading) => void
}) {
  const [asking, setAsking] = useState(false)
  const note = (checked: string[]) => {
    setAsking(false)
    onAgain({ ...reading, note: null, taken: null, checked: checked.length ? checked : null } as Reading)
  }
  if (!asking) return <Button onClick={() => setAsking(true)}>Again, the same</Button>
  const { twoPoints, clamps } = KINDS[reading.measure]
  const byMeter = twoPoints || clamps
  return (
    <span className="line-acts" role="group" aria-label="What was done before it was read again">
      {byMeter &&
        checks.map((name) => (
          <Button key={name} onClick={() => note([name])}>
            {say(name)}
          </Button>
        ))}
      <Button onClick={() => note([])}>Nothing changed</Button>
    </span>
  )
}

/** Who wrote a line, when it was taken by the instrument's clock, and when it was written by the server's. */
function Who({ view, place }: { view: JobView; place: number }) {
  const [reading, written] = [view.case.readings[place], view.written[place]]
  const by = written?.by ? ` by ${written.by}` : written ? ', no name kept' : ''
  return (
    <>
      {reading?.taken && (
        <p className="muted">
          Taken {moment(reading.taken)}
          {by}
          {written?.imported && ', from a case file'}
          {written?.later && `; written ${moment(written.at)}`}
          {written?.clock && `; ${written.clock}`}
        </p>
      )}
      {written?.struck_at && (
        <p className="muted">
          Struck {moment(written.struck_at)}
          {written.struck_by && ` by ${written.struck_by}`}
        </p>
      )}
    </>
  )
}

function moment(text: string): string {
  const time = new Date(text)
  return Number.isNaN(time.getTime()) ? text : time.toLocaleString([], { dateStyle: 'medium', timeStyle: 'short' })
}

const CLOCK = new Intl.DateTimeFormat([], { hour: '2-digit', minute: '2-digit', hour12: false })

/** The time of day; what is no time is shown as it stands. */
function clock(taken: string | null | undefined): string {
  if (!taken) return ''
  const time = new Date(taken)
  return Number.isNaN(time.getTime()) ? taken : CLOCK.format(time)
}

function result(view: JobView, place: number): string {
  return view.case.readings[place]?.struck ? 'struck' : (view.verdict.judged[place]?.result ?? '')
}

/** A line that stays as it is when readings are added: a long ledger must not hold up the newest. */
const Line = memo(function Line(props: {
  words: JobView['ledger'][number] | undefined
  reading: JobView['case']['readings'][number] | undefined
  judged: JobView['verdict']['judged'][number] | undefined
  beside: string
  photos: number
  place: number
  open: boolean
  onShow: (place: number) => void
  onOpen: (open: Opened) => void
}) {
  const { words, reading, judged, place } = props
  if (!words || !reading || !judged) return null
  const struck = reading.struck
  return (
    <>
      <button
        type="button"
        className="line-main"
        aria-expanded={props.open}
        onClick={() => {
          props.onShow(place)
          props.onOpen({ place, what: 'whole' })
        }}
      >
        <span className="mark" aria-label={struck ? 'struck' : judgement(judged.result).word}>
          {struck ? '—' : judgement(judged.result).mark}
        </span>
        <span className="figure value">{words.value}</span>
        <span className="what">
          {reading.instrument && <span className="simulated">simulated </span>}
          {words.where} <span className="muted">{words.state}</span>
          {props.photos > 0 && (
            <span className="muted"> · {props.photos === 1 ? 'photo' : `${props.photos} photos`}</span>
          )}
        </span>
        <span className="says" title={judged.says}>
          {props.beside && <span className="beside">{props.beside}</span>}{' '}
          {struck
            ? `Struck: ${struck}`
            : judged.expected && `${judged.against === 'spec' ? 'Specified' : 'Should read'} ${judged.expected}`}
        </span>
        <time className="muted">{clock(reading.taken)}</time>
      </button>
    </>
  )
})

function StrikeForm({ view, place, onDone }: { view: JobView; place: number; onDone: () => void }) {
  const [reason, setReason] = useState('')
  const strike = useStrike(view.id)
  return (
    <form
      className="strike"
      onSubmit={(event) => {
        event.preventDefault()
        strike.mutate({ place, reason }, { onSuccess: onDone })
      }}
    >
      <Input
        autoFocus
        value={reason}
        onChange={(event) => setReason(event.target.value)}
        placeholder="Why it does not count: wrong pin, misread…"
        aria-label="Reason for striking out"
      />
      <Button htmlType="submit" loading={strike.isPending}>
        Strike out
      </Button>
      <Button type="text" onClick={onDone}>
        Keep it
      </Button>
      {strike.error && <Problem error={strike.error} />}
    </form>
  )
}

function Without({ view, place }: { view: JobView; place: number }) {
  const answer = useWithout(view.id, place)
  if (answer.error) return <Problem error={answer.error} />
  if (!answer.data) return <p className="muted">Working it out…</p>
  return (
    <p className="what-if" role="status">
      Without reading {place + 1}: <strong>{answer.data.title}</strong>
      {answer.data.same ? ', the same.' : '. The decision leans on it.'}
    </p>
  )
}
