import { Alert } from 'antd'
import { useSyncExternalStore } from 'react'
import { useHere } from '../api/people'
import { othersWaiting, waiting } from '../shared/outbox'

/** Readings that are kept on this device and wait for the server, or for the person who took them. */
export function WaitingBanner() {
  const me = useHere().data?.me?.id
  const here = useSyncExternalStore(waiting.subscribe, waiting.now).filter((item) => item.late)
  const others = useSyncExternalStore(othersWaiting.subscribe, othersWaiting.now)
  const count = here.length + others.reduce((sum, item) => sum + item.jobs.length, 0)
  if (count === 0) return null
  const names = [...new Set([...others, ...here.filter((item) => item.person !== me)].map((item) => item.name))].join(
    ' and ',
  )
  const why = names
    ? `${names} must say who they are before theirs are sent.`
    : 'They are sent as soon as the server answers.'
  return (
    <Alert
      banner
      type="warning"
      className="notice"
      title={`${count === 1 ? '1 reading is' : `${count} readings are`} kept on this device. ${why}`}
    />
  )
}
