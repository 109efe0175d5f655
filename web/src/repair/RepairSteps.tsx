import { Alert, Button, Checkbox, Image, Input, Upload } from 'antd'
import { useState } from 'react'
import type { JobView, Schemas } from '../api/client'
import { useAddPhoto, useTick } from '../api/jobs'
import { Problem } from '../shared/Problem'

type Step = Schemas['RepairSheet']['steps'][number]

/** The steps of the repair, to be ticked off with gloves on; what can hurt stands at its step. */
export function RepairSteps({ view }: { view: JobView }) {
  const tick = useTick(view.id)
  const photo = useAddPhoto(view.id)
  const stands = new Map(view.ticks.map((item) => [item.step, item]))
  const send = (step: Step, change: Partial<Schemas['Tick']>) => {
    const now = stands.get(step.id)
    tick.mutate({
      step: step.id,
      body: { done: change.done ?? now?.done ?? false, note: change.note ?? now?.note ?? '' },
    })
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
              {sheet.steps.filter((step) => stands.get(step.id)?.done).length} of {sheet.steps.length}
            </span>
          </h2>
          <ol>
            {sheet.steps.map((step) => (
              <li key={step.id} className={stands.get(step.id)?.done ? 'done' : ''}>
                <Checkbox
                  checked={stands.get(step.id)?.done ?? false}
                  onChange={(event) => send(step, { done: event.target.checked })}
                >
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
                <div className="step-photos">
                  {(stands.get(step.id)?.photos ?? []).map((number) => (
                    <Image key={number} height={72} alt={`Photo of: ${step.do}`} src={`/api/photos/${number}.jpg`} />
                  ))}
                  <Upload
                    accept="image/*"
                    showUploadList={false}
                    beforeUpload={(file) => {
                      photo.mutate({ step: step.id, photo: file })
                      return false
                    }}
                  >
                    <Button
                      size="small"
                      type="text"
                      loading={photo.isPending && photo.variables.step === step.id}
                      aria-label={`Photo of: ${step.do}`}
                    >
                      Photo
                    </Button>
                  </Upload>
                </div>
                {(stands.get(step.id)?.done || stands.get(step.id)?.note) && (
                  <Note
                    value={stands.get(step.id)?.note ?? ''}
                    label={`Note: ${step.do}`}
                    onSave={(note) => send(step, { note })}
                  />
                )}
              </li>
            ))}
          </ol>
        </section>
      ))}
    </>
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
