import { Alert } from 'antd'
import { useSyncExternalStore } from 'react'
import { useHere } from '../api/people'
import { waiting } from '../model/outbox'

/** Readings that are kept on this device and wait for the server, or for the person who took them. */
export function Kept() {
  const items = useSyncExternalStore(waiting.subscribe, waiting.now)
  const me = useHere().data?.me?.id
  const late = items.filter((item) => item.late)
  if (late.length === 0) return null
  const others = [...new Set(late.filter((item) => item.person !== me).map((item) => item.name))]
  const count = late.length === 1 ? '1 reading is' : `${late.length} readings are`
  const why = others.length > 0 ? `${others.join(' and ')} must say who they are before theirs are sent.` : 'They are sent as soon as the server answers.'
  return <Alert banner type="warning" className="notice" title={`${count} kept on this device. ${why}`} />
}
