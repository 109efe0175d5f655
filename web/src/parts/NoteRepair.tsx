import { Button, Form, Input, Modal, Select } from 'antd'
import { useState } from 'react'
import type { JobView, Reading } from '../api/client'

/** What was done is noted: as the decision says, or before it stands, and then with the reason. */
export function NoteRepair({ view, onAct, primary = false }: { view: JobView; onAct: (reading: Reading) => void; primary?: boolean }) {
  const [open, setOpen] = useState(false)
  const [part, setPart] = useState('')
  const [note, setNote] = useState('')
  const acts: readonly string[] = view.choices.repairs
  const [action, setAction] = useState<string>()
  const chosen = action ?? acts[0]
  const early = view.verdict.components.length === 0
  const title = early ? 'I am fitting the part' : 'Note the repair'
  const act = () => {
    onAct({ measure: 'act', action: chosen, value: 'done', ...(part.trim() ? { part: part.trim() } : {}), ...(note.trim() ? { note: note.trim() } : {}) } as Reading)
    setOpen(false)
    setPart('')
    setNote('')
  }
  const wanted = view.verdict.gate.filter((item) => item.status === 'wanted')
  return (
    <>
      <Button type={primary ? 'primary' : 'default'} onClick={() => setOpen(true)}>{title}</Button>
      <Modal title={title} open={open} onCancel={() => setOpen(false)} onOk={act} okText="Note it as done" okButtonProps={{ disabled: early && !note.trim() }} destroyOnHidden>
        <Form layout="vertical" component={false}>
          {early && wanted.length > 0 && <p>Not shown yet: {wanted.map((item) => item.asks.toLowerCase()).join('; ')}. It is noted with the repair; the proof afterwards is the same.</p>}
          <Form.Item label="What is done">
            <Select aria-label="What is done" value={chosen} onChange={setAction} options={acts.map((value) => ({ value, label: view.choices.words[value] ?? value }))} />
          </Form.Item>
          <Form.Item label="Part number fitted">
            <Input aria-label="Part number fitted" className="figure" value={part} onChange={(event) => setPart(event.target.value)} placeholder="as printed on it; empty for none" maxLength={80} />
          </Form.Item>
          <Form.Item label={early ? 'Why now' : 'Note'}>
            <Input.TextArea autoFocus={early} aria-label={early ? 'Why now' : 'Note'} value={note} onChange={(event) => setNote(event.target.value)} placeholder={early ? 'The part is on the shelf, the bus leaves at six…' : 'Where the break was, how it was mended…'} autoSize={{ minRows: 2 }} maxLength={500} />
          </Form.Item>
        </Form>
      </Modal>
    </>
  )
}
