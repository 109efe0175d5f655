import { Button } from 'antd'
import { useEffect, useState } from 'react'
import { keep, kept } from '../shared/browserStore'

/** Minutes after which a clearing is another job's story. */
const FORGOTTEN = 10

function recent(end: number | null): number | null {
  return end !== null && end > Date.now() - FORGOTTEN * 60_000 ? end : null
}

/** How long a freshly cleared heater is driven before the module may latch it off again, in seconds. */
export function ClearedClock({ job, seconds }: { job: number; seconds: number }) {
  const key = `cleared-${job}`
  const [end, setEnd] = useState(() => recent(kept<number>(key)))
  const [now, setNow] = useState(Date.now)
  useEffect(() => {
    if (end === null) return
    const tick = window.setInterval(() => setNow(Date.now()), 250)
    return () => window.clearInterval(tick)
  }, [end])
  const start = () => {
    const started = Date.now()
    keep(key, started + seconds * 1000)
    setNow(started)
    setEnd(started + seconds * 1000)
  }
  if (end === null) {
    return (
      <Button
        className="toggle clock"
        onClick={start}
        title="Touch it as the engine starts: the module may shut the heater off again after this"
      >
        started: {seconds} s
      </Button>
    )
  }
  const left = Math.max(0, Math.ceil((end - now) / 1000))
  return (
    <Button className="toggle clock" onClick={start} role="timer">
      {left > 0 ? `${left} s to measure` : 'may be off again: clear once more'}
    </Button>
  )
}
