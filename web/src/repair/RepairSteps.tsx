import { Alert, Checkbox, Input } from 'antd'
import { useState } from 'react'
import type { JobView, Schemas } from '../api/client'
import { useAddPhoto, useTick } from '../api/repairs'
import { PhotoStrip } from '../shared/PhotoStrip'
import { Problem } from '../shared/Problem'

type Step = Schemas['RepairSheet']['steps'][number]

/** The steps of the repair, to be ticked off with gloves on; what can hurt stands at its step. */
export function RepairSteps({ view }: { view: JobView }) {
  const tick = useTick(view.id)
  const photo = useAddPhoto(view.id)
  const ticks = new Map(view.ticks.map((item) => [item.step, item]))
  const send = (step: string, change: Partial<Schemas['Tick']>) => {
    const now = ticks.get(step)
    tick.mutate({ step, body: { done: change.done ?? now?.done ?? false, note: change.note ?? now?.note ?? '' } })
  }
  return (
    <>
      {tick.error && <Alert type="error" showIcon title="The tick was not stored. Try again." />}
      {photo.error && <Problem error={photo.error} />}
      {view.sheets.map((sheet) => (
        <section key={sheet.id} aria-label={sheet.title} className="repair-sheet">
          <h2>
            {sheet.title}{' '}
            <span className="muted">
              {sheet.steps.filter((step) => ticks.get(step.id)?.done).length} of {sheet.steps.length}
            </span>
          </h2>
          <ol>
            {sheet.steps.map((step) => (
              <StepLine
                key={step.id}
                step={step}
                tick={ticks.get(step.id)}
                photo={photo}
                onTick={(change) => send(step.id, change)}
              />
            ))}
          </ol>
        </section>
      ))}
    </>
  )
}

interface StepProps {
  step: Step
  tick: Schemas['Ticked'] | undefined
  photo: ReturnType<typeof useAddPhoto>
  onTick: (change: Partial<Schemas['Tick']>) => void
}

function StepLine({ step, tick, photo, onTick }: StepProps) {
  return (
    <li className={tick?.done ? 'done' : ''}>
      <Checkbox checked={tick?.done ?? false} onChange={(event) => onTick({ done: event.target.checked })}>
        {step.do}
      </Checkbox>
      {step.tools.length > 0 && <p className="muted">Tools: {step.tools.join(', ')}</p>}
      {step.cautions.map((line) => (
        <p key={line} className="caution">
          {line}
        </p>
      ))}
      {step.stop && (
        <p className="stop">
          <strong>Stop:</strong> {step.stop}
        </p>
      )}
      <PhotoStrip
        of={step.do}
        numbers={tick?.photos ?? []}
        sending={photo.isPending && photo.variables.step === step.id}
        onAdd={(file) => photo.mutate({ step: step.id, photo: file })}
      />
      {(tick?.done || tick?.note) && (
        <Note value={tick.note} label={`Note: ${step.do}`} onSave={(note) => onTick({ note })} />
      )}
    </li>
  )
}

function Note({ value, label, onSave }: { value: string; label: string; onSave: (note: string) => void }) {
  const [text, setText] = useState(value)
  const save = () => text.trim() !== value && onSave(text.trim())
  return (
    <Input
      size="small"
      variant="underlined"
      aria-label={label}
      placeholder="note"
      value={text}
      onChange={(event) => setText(event.target.value)}
      onBlur={save}
      onPressEnter={save}
      maxLength={300}
    />
  )
}
