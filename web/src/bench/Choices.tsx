import { useEffect } from 'react'
import { typing } from '../shared/Keys'
import { say } from '../shared/vocabulary'

/** What was seen, each one touch, or its number on the keyboard. */
export function Choices({
  names,
  onTake,
  busy,
}: {
  names: readonly string[]
  onTake: (value: string) => void
  busy: boolean
}) {
  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      const name = /^Digit[1-9]$/.test(event.code) ? names[Number(event.code.slice(-1)) - 1] : undefined
      if (!name || busy || typing(event) || event.ctrlKey || event.metaKey) return
      event.preventDefault()
      onTake(name)
    }
    window.addEventListener('keydown', press)
    return () => window.removeEventListener('keydown', press)
  }, [names, busy, onTake])
  return (
    <div className="choices" role="group" aria-label="What was seen">
      {names.map((name, index) => (
        <button key={name} type="button" disabled={busy} onClick={() => onTake(name)} className={`choice ${name}`}>
          <span className="key" aria-hidden="true">
            {index + 1}
          </span>
          {say(name)}
        </button>
      ))}
    </div>
  )
}
