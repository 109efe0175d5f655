import { Alert, Button, Form, Input, Modal } from 'antd'
import { useState } from 'react'
import { Link } from 'react-router'
import type { JobView, Reading } from '../api/client'
import { useCloseJob } from '../api/repairs'
import { Problem } from '../shared/Problem'

/** How the job ends: handed over as proven, closed with a reason, or open again because the code is back. */
export function HandOver({ view, onAct }: { view: JobView; onAct: (reading: Reading) => void }) {
  const { repair, decision } = view.verdict
  const proven = repair.state === 'proven' || (repair.state === 'none' && decision === 'no-fault-now')
  const mended = repair.done.length > 0
  const back = () => onAct({ measure: 'act', action: 'clear-codes', value: 'returned-later' } as Reading)
  return (
    <div className="hand-over">
      {repair.closed ? <Closed closed={repair.closed} proven={proven} /> : <Close id={view.id} proven={proven} />}
      <Link to={`/jobs/${view.id}/papers`} className="quiet">
        Papers
      </Link>
      {mended && (repair.closed || repair.state !== 'came-back') && <Button onClick={back}>The code came back</Button>}
    </div>
  )
}

type Closing = NonNullable<JobView['verdict']['repair']['closed']>

function Closed({ closed, proven }: { closed: Closing; proven: boolean }) {
  return (
    <Alert
      type={proven ? 'success' : 'warning'}
      showIcon
      title={proven ? 'Handed over, proven' : 'Closed, not proven'}
      description={[closed.reason, closed.by && `by ${closed.by}`].filter(Boolean).join(', ')}
    />
  )
}

function Close({ id, proven }: { id: number; proven: boolean }) {
  const close = useCloseJob(id)
  const [asking, setAsking] = useState(false)
  return (
    <>
      {close.error && <Problem error={close.error} />}
      {proven ? (
        <Button type="primary" loading={close.isPending} onClick={() => close.mutate('')}>
          Hand the vehicle over
        </Button>
      ) : (
        <Button onClick={() => setAsking(true)}>Close it unproven…</Button>
      )}
      {asking && (
        <Unproven
          onCancel={() => setAsking(false)}
          onClose={(reason) => close.mutate(reason, { onSuccess: () => setAsking(false) })}
        />
      )}
    </>
  )
}

function Unproven({ onCancel, onClose }: { onCancel: () => void; onClose: (reason: string) => void }) {
  const [form] = Form.useForm<{ reason?: string }>()
  const reason = (Form.useWatch('reason', form) ?? '').trim()
  return (
    <Modal
      title="Close it unproven"
      open
      onCancel={onCancel}
      okText="Close it"
      okButtonProps={{ disabled: !reason }}
      onOk={() => onClose(reason)}
    >
      <p>What is not shown stands on the paper, with your reason.</p>
      <Form form={form}>
        <Form.Item name="reason" noStyle>
          <Input.TextArea
            autoFocus
            aria-label="Why it is closed unproven"
            placeholder="The driver had to leave; back on Monday…"
            autoSize={{ minRows: 2 }}
            maxLength={500}
          />
        </Form.Item>
      </Form>
    </Modal>
  )
}
