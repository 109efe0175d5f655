import { useSyncExternalStore } from 'react'
import type { JobView } from '../api/client'
import { useHere } from '../api/people'
import { type Waiting, waiting } from '../shared/outbox'
import { say } from '../shared/vocabulary'

/** Readings of this job that are kept on this device and not yet in the ledger. */
export function WaitingLines({ view }: { view: JobView }) {
  const me = useHere().data?.me?.id
  const items = useSyncExternalStore(waiting.subscribe, waiting.now).filter(
    (item) => item.late && item.job === view.id && item.person === me,
  )
  return (
    <>
      {view.notTaken && (
        <p role="alert" className="problem">
          {view.notTaken}
        </p>
      )}
      {items.length > 0 && (
        <ol className="waiting-lines" aria-label="Kept on this device">
          {items.map((item) => (
            <li key={item.key}>
              <span className="mark">…</span> <span className="figure">{valueOf(item)}</span> {placeOf(item, view)}{' '}
              <span className="muted">kept here, not judged yet, by {item.name}</span>
            </li>
          ))}
        </ol>
      )}
    </>
  )
}

function valueOf({ body }: Waiting): string {
  return typeof body.value === 'string' ? body.value : Object.values(body.value ?? {}).join(' ')
}

function placeOf({ body }: Waiting, view: JobView): string {
  const words = (id: string) => view.drawing.points.find((point) => point.id === id)?.words ?? say(id)
  if ('red' in body && body.red) return `${words(body.red)} → ${words(body.black ?? '')}`
  const spot =
    'pid' in body
      ? body.pid
      : 'signal' in body
        ? body.signal
        : 'target' in body
          ? body.target
          : 'action' in body
            ? body.action
            : 'at' in body
              ? body.at
              : ''
  return words(spot ?? '')
}
