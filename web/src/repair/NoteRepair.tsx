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

/** What is typed: the acts that are done, or the fault of a feed that was mended. */
interface Typed {
  chosen?: string[]
  fault?: string
  part?: string
  note?: string
}

/** The entries that a repair comes to: one for each act. */
function entriesOf(view: JobView, { chosen = [], fault, part, note }: Typed): Reading[] {
  const said = { ...(part?.trim() ? { part: part.trim() } : {}), ...(note?.trim() ? { note: note.trim() } : {}) }
  const mended = view.mends.find((item) => item.fault === fault)
  const acts = mended ? [{ action: mended.action, of_fault: mended.fault }] : chosen.map((action) => ({ action }))
  return acts.map((act) => ({ measure: 'act', ...act, value: 'done', ...said }) as Reading)
}

function Dialog({ view, title, early, onAct, onClose }: DialogProps) {
  const [form] = Form.useForm<Typed>()
  const typed = (Form.useWatch([], form) as Typed | undefined) ?? { chosen: [...view.acts] }
  const incomplete = entriesOf(view, typed).length === 0 || (early && !typed.note?.trim())
  const act = (done: Typed) => {
    entriesOf(view, done).forEach(onAct)
    onClose()
  }
  return (
    <Modal
      title={title}
      open
      onCancel={onClose}
      onOk={() => form.submit()}
      okText="Note it as done"
      okButtonProps={{ disabled: incomplete }}
      destroyOnHidden
    >
      <Form<Typed> form={form} layout="vertical" initialValues={{ chosen: [...view.acts] }} onFinish={act}>
        {early && <NotShownYet gate={view.verdict.gate} />}
        {view.mends.length > 0 ? <WhichFault view={view} /> : <WhatIsDone view={view} />}
        <Form.Item label="Part number fitted" name="part">
          <Input className="figure" placeholder="as printed on it; empty for none" maxLength={80} />
        </Form.Item>
        <Form.Item label={early ? 'Why now' : 'Note'} name="note">
          <Input.TextArea
            autoFocus={early}
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

function NotShownYet({ gate }: { gate: JobView['verdict']['gate'] }) {
  const wanted = gate.filter((item) => item.status === 'wanted')
  if (wanted.length === 0) return null
  return (
    <p>
      Not shown yet: {wanted.map((item) => item.asks.toLowerCase()).join('; ')}. It is noted with the repair; the proof
      afterwards is the same.
    </p>
  )
}

function WhichFault({ view }: { view: JobView }) {
  return (
    <Form.Item label="Which fault was mended" name="fault">
      <Radio.Group className="acts" options={view.mends.map((item) => ({ value: item.fault, label: item.says }))} />
    </Form.Item>
  )
}

function WhatIsDone({ view }: { view: JobView }) {
  return (
    <Form.Item label="What is done" name="chosen">
      <Checkbox.Group className="acts" options={view.choices.repairs.map((value) => ({ value, label: say(value) }))} />
    </Form.Item>
  )
}
