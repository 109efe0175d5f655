import { Button, Form, Input, Modal, Select } from 'antd'
import { useState } from 'react'
import type { JobView, Reading } from '../api/client'

/** The technician acts: recorded with the reason, whatever is proven by then. */
export function FittingNow({ view, onAct }: { view: JobView; onAct: (reading: Reading) => void }) {
  const [open, setOpen] = useState(false)
  const [reason, setReason] = useState('')
  const acts: readonly string[] = view.choices.repairs
  const [action, setAction] = useState<string>()
  const chosen = action ?? acts[0]
  const act = () => {
    onAct({ measure: 'act', action: chosen, value: 'done', note: reason.trim() } as Reading)
    setOpen(false)
    setReason('')
  }
  const wanted = view.verdict.gate.filter((item) => item.status === 'wanted')
  return (
    <>
      <Button onClick={() => setOpen(true)}>I am fitting the part</Button>
      <Modal title="I am fitting the part" open={open} onCancel={() => setOpen(false)} onOk={act} okText="Note it as done" okButtonProps={{ disabled: !reason.trim() }} destroyOnHidden>
        <Form layout="vertical" component={false}>
          {wanted.length > 0 && <p>Not shown yet: {wanted.map((item) => item.asks.toLowerCase()).join('; ')}.</p>}
          <Form.Item label="What is done">
            <Select aria-label="What is done" value={chosen} onChange={setAction} options={acts.map((value) => ({ value, label: view.choices.words[value] ?? value }))} />
          </Form.Item>
          <Form.Item label="Why now">
            <Input.TextArea autoFocus aria-label="Why now" value={reason} onChange={(event) => setReason(event.target.value)} placeholder="The part is on the shelf, the bus leaves at six…" autoSize={{ minRows: 2 }} maxLength={500} />
          </Form.Item>
        </Form>
      </Modal>
    </>
  )
}
