import { useEffect, useState } from 'react'

/** How long a freshly cleared heater is driven before the module may latch it off again, in seconds. */
export function ClearedClock({ seconds }: { seconds: number }) {
  const [end, setEnd] = useState<number | null>(null)
  const [now, setNow] = useState(0)
  useEffect(() => {
    if (end === null) return
    const tick = window.setInterval(() => setNow(Date.now()), 250)
    return () => window.clearInterval(tick)
  }, [end])
  const start = () => {
    setNow(Date.now())
    setEnd(Date.now() + seconds * 1000)
  }
  if (end === null) {
    return (
      <button type="button" className="toggle clock" onClick={start} title="Touch it as the engine starts: the module may shut the heater off again after this">
        started: {seconds} s
      </button>
    )
  }
  const left = Math.max(0, Math.ceil((end - now) / 1000))
  return (
    <button type="button" className="toggle clock" onClick={start} role="timer">
      {left > 0 ? `${left} s to measure` : 'may be off again: clear once more'}
    </button>
  )
}
