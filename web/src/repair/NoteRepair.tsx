import { Button, Checkbox, Form, Input, Modal, Radio } from 'antd'
import { useState } from 'react'
import type { JobView, Reading } from '../api/client'
import { say } from '../shared/vocabulary'

/** What was done is noted: the dialog proposes what is decided, and nothing where nothing is; then the reason is asked for. */
export function NoteRepair({
  view,
  onAct,
  primary = false,
}: {
  view: JobView
  onAct: (reading: Reading) => void
  primary?: boolean
}) {
  const [open, setOpen] = useState(false)
  const early = view.acts.length === 0 && view.mends.length === 0
  const title = early ? 'I am fitting the part' : 'Note the repair'
  return (
    <>
      <Button type={primary ? 'primary' : 'default'} onClick={() => setOpen(true)}>
        {title}
      </Button>
      {open && <Dialog view={view} title={title} early={early} onAct={onAct} onClose={() => setOpen(false)} />}
    </>
  )
}

interface DialogProps {
  view: JobView
  title: string
  early: boolean
  onAct: (reading: Reading) => void
  onClose: () => void
}

function Dialog({ view, title, early, onAct, onClose }: DialogProps) {
  const [chosen, setChosen] = useState<string[]>([...view.acts])
  const [fault, setFault] = useState('')
  const [part, setPart] = useState('')
  const [note, setNote] = useState('')
  const said = { ...(part.trim() ? { part: part.trim() } : {}), ...(note.trim() ? { note: note.trim() } : {}) }
  const act = () => {
    const mended = view.mends.find((item) => item.fault === fault)
    if (mended)
      onAct({ measure: 'act', action: mended.action, of_fault: mended.fault, value: 'done', ...said } as Reading)
    else for (const action of chosen) onAct({ measure: 'act', action, value: 'done', ...said } as Reading)
    onClose()
  }
  const wanted = view.verdict.gate.filter((item) => item.status === 'wanted')
  const incomplete = (chosen.length === 0 && !fault) || (early && !note.trim())
  return (
    <Modal
      title={title}
      open
      onCancel={onClose}
      onOk={act}
      okText="Note it as done"
      okButtonProps={{ disabled: incomplete }}
      destroyOnHidden
    >
      <Form layout="vertical" component={false}>
        {early && wanted.length > 0 && (
          <p>
            Not shown yet: {wanted.map((item) => item.asks.toLowerCase()).join('; ')}. It is noted with the repair; the
            proof afterwards is the same.
          </p>
        )}
        {view.mends.length > 0 && (
          <Form.Item label="Which fault was mended">
            <Radio.Group
              className="acts"
              value={fault}
              onChange={(event) => setFault(event.target.value as string)}
              options={view.mends.map((item) => ({ value: item.fault, label: item.says }))}
            />
          </Form.Item>
        )}
        {view.mends.length === 0 && (
          <Form.Item label="What is done">
            <Checkbox.Group
              className="acts"
              value={chosen}
              onChange={setChosen}
              options={view.choices.repairs.map((value) => ({ value: value, label: say(value) }))}
            />
          </Form.Item>
        )}
        <Form.Item label="Part number fitted">
          <Input
            aria-label="Part number fitted"
            className="figure"
            value={part}
            onChange={(event) => setPart(event.target.value)}
            placeholder="as printed on it; empty for none"
            maxLength={80}
          />
        </Form.Item>
        <Form.Item label={early ? 'Why now' : 'Note'}>
          <Input.TextArea
            autoFocus={early}
            aria-label={early ? 'Why now' : 'Note'}
            value={note}
            onChange={(event) => setNote(event.target.value)}
            placeholder={
              early ? 'The part is on the shelf, the bus leaves at six…' : 'Where the break was, how it was mended…'
            }
            autoSize={{ minRows: 2 }}
            maxLength={500}
          />
        </Form.Item>
      </Form>
    </Modal>
  )
}
