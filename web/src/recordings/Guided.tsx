import { Alert, Button } from 'antd'
import { useEffect, useEffectEvent, useState } from 'react'
import type { CaptureView, Mark, MarkChoice } from '../api/recordings'
import { added } from './MarkBar'

interface GuidedProps {
  capture: CaptureView
  choices: readonly MarkChoice[]
  marks: readonly Mark[]
  onMarks: (marks: Mark[]) => void
  onLeave: () => void
  /** None where no instrument records by itself. */
  onRecord?: () => void
  recording: boolean
}

/** A recording that is made step by step: what to do now in large type, for how long, and marks by one touch or key. */
export function Guided({ capture, choices, marks, onMarks, onLeave, onRecord, recording }: GuidedProps) {
  const clock = useTimer()
  const { step, left, next } = stepAt(capture, clock.seconds)
  const mark = (event: Mark['event']) => onMarks(added(marks, { at_s: clock.now(), event, note: '' }))
  const begin = useEffectEvent((place: number) => {
    const event = capture.steps[place]?.mark
    if (event) mark(event)
  })
  // a step that changes something is marked when it begins
  useEffect(() => {
    if (clock.running) begin(step)
  }, [clock.running, step])
  useMarkKeys(clock.running, choices, mark)
  const now = capture.steps[step]
  return (
    <section className="guided" aria-label={`Recording: ${capture.title}`}>
      <header>
        <h2>{capture.title}</h2>
        <Button onClick={onLeave}>Leave it</Button>
      </header>
      {capture.cautions.map((line) => (
        <p key={line} className="caution">
          {line}
        </p>
      ))}
      <p>
        <strong>Record:</strong> {capture.record}.
      </p>
      <p className="guided-now" aria-live="assertive">
        {clock.over ? 'Done. Stop the recording, and drop its file here.' : now?.says}
      </p>
      <p className="guided-left figure">{clock.over ? '✓' : `${Math.ceil(left)} s`}</p>
      {next && !clock.over && <p className="muted">Then: {next.says}</p>}
      <div className="guided-buttons">
        {!clock.running && !clock.over && (
          <Button type="primary" size="large" onClick={() => clock.start(total(capture))}>
            The recording runs: start the timer
          </Button>
        )}
        {clock.running &&
          choices.slice(0, 9).map((choice, place) => (
            <Button key={choice.id} size="large" onClick={() => mark(choice.id)}>
              <kbd>{place + 1}</kbd> {choice.label}
            </Button>
          ))}
        {onRecord && !clock.running && (
          <Button size="large" loading={recording} onClick={onRecord}>
            Let the simulated instrument record it
          </Button>
        )}
      </div>
      {marks.length > 0 && (
        <Alert
          type="info"
          title={`Marked: ${marks.map((item) => `${labelOf(item, choices)} at ${item.at_s.toFixed(1)} s`).join(', ')}`}
        />
      )}
    </section>
  )
}

const labelOf = (mark: Mark, choices: readonly MarkChoice[]) =>
  choices.find((choice) => choice.id === mark.event)?.label ?? mark.event
const total = (capture: CaptureView) => capture.steps.reduce((sum, step) => sum + step.seconds, 0)

/** Which step it is after so many seconds, and how long it still lasts. */
export function stepAt(capture: CaptureView, seconds: number) {
  let ends = 0
  for (const [place, step] of capture.steps.entries()) {
    ends += step.seconds
    if (seconds < ends) return { step: place, left: ends - seconds, next: capture.steps[place + 1] }
  }
  return { step: capture.steps.length - 1, left: 0, next: undefined }
}

/** Seconds since the timer was started, told five times a second. */
function useTimer() {
  const [began, setBegan] = useState<number | null>(null)
  const [lasts, setLasts] = useState(0)
  const [seconds, setSeconds] = useState(0)
  const now = () => (began === null ? 0 : (performance.now() - began) / 1000)
  const over = began !== null && seconds >= lasts
  useEffect(() => {
    if (began === null || over) return
    const tick = window.setInterval(() => setSeconds((performance.now() - began) / 1000), 200)
    return () => window.clearInterval(tick)
  }, [began, over])
  return {
    seconds,
    now,
    over,
    running: began !== null && !over,
    start: (length: number) => {
      setLasts(length)
      setBegan(performance.now())
    },
  }
}

function useMarkKeys(running: boolean, choices: readonly MarkChoice[], mark: (event: Mark['event']) => void): void {
  const pressed = useEffectEvent((event: KeyboardEvent) => {
    if (event.target instanceof Element && event.target.closest('input, textarea')) return
    const choice = /^[1-9]$/.test(event.key) ? choices[Number(event.key) - 1] : undefined
    if (choice) mark(choice.id)
  })
  useEffect(() => {
    if (!running) return
    const listener = (event: KeyboardEvent) => pressed(event)
    document.addEventListener('keydown', listener)
    return () => document.removeEventListener('keydown', listener)
  }, [running])
}
