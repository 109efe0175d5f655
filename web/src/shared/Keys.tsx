import { Modal } from 'antd'
import { useLayoutEffect, useState } from 'react'
import { useNavigate } from 'react-router'

const HELP: [string, string][] = [
  ['type, Enter', 'take the reading the meter is laid out for'],
  ['Alt + V O L A S C R I D', 'volts, ohms, lamp, amps, scope, scan, record, look, did (without Alt when not typing)'],
  ['1 to 9', 'what was seen: the first, the second …'],
  ['Tab', 'through the points of the drawing; Enter puts the next lead there'],
  ['N', 'back to the proposed reading'],
  ['P, B, U', 'type a new code from anywhere'],
  ['?', 'this help; Esc closes it'],
]

/** True while a key belongs to a field rather than to the page. */
export function typing(event: KeyboardEvent): boolean {
  const target = event.target as HTMLElement | null
  const field = target?.closest('input, select, textarea')
  return Boolean(field) && !event.altKey
}

/** Keys that work on every page: a code typed anywhere starts a job, ? shows the help. */
export function Keys() {
  const [open, setOpen] = useState(false)
  const navigate = useNavigate()
  // Before the page is painted: a key pressed at once must not be lost.
  useLayoutEffect(() => {
    const press = (event: KeyboardEvent) => {
      if (typing(event) || event.ctrlKey || event.metaKey) return
      if (event.key === '?') {
        setOpen((was) => !was)
        return
      }
      if (/^[pbu]$/i.test(event.key) && !event.altKey) {
        event.preventDefault()
        void navigate('/', { state: { typed: event.key.toUpperCase() } })
      }
    }
    window.addEventListener('keydown', press)
    return () => window.removeEventListener('keydown', press)
  }, [navigate])
  return (
    <Modal title="Keys" open={open} onCancel={() => setOpen(false)} footer={null} width={760}>
      <dl className="help">
        {HELP.map(([keys, what]) => (
          <div key={keys}>
            <dt className="figure">{keys}</dt>
            <dd>{what}</dd>
          </div>
        ))}
      </dl>
    </Modal>
  )
}
