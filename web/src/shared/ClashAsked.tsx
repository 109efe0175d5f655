import { Button, Modal } from 'antd'
import { useSyncExternalStore } from 'react'
import { useChangeJob, useJob } from '../api/jobs'
import { at, type Clash, clash } from './clash'
import { plainField } from './words'

/** Two people changed the same: both are shown, and nothing is overwritten before one is chosen. */
export function ClashAsked() {
  const told = useSyncExternalStore(clash.subscribe, clash.now)
  return told && <Asked told={told} />
}

function Asked({ told }: { told: Clash }) {
  const view = useJob(told.job).data
  const change = useChangeJob(told.job)
  const done = () => clash.tell(null)
  return (
    <Modal
      title="Changed on two screens"
      open
      onCancel={done}
      footer={[
        <Button key="theirs" onClick={done}>
          Keep {told.by}’s
        </Button>,
        <Button
          key="mine"
          type="primary"
          loading={change.isPending}
          disabled={!view}
          onClick={() => change.mutate(told.change, { onSuccess: done })}
        >
          Use mine
        </Button>,
      ]}
    >
      <p>{told.by} has changed the same meanwhile. Your change is not stored yet.</p>
      <table className="clash">
        <thead>
          <tr>
            <th />
            <th>{told.by}</th>
            <th>You</th>
          </tr>
        </thead>
        <tbody>
          {told.fields.map((field) => (
            <tr key={field}>
              <th>{plainField(field).replace(/:$/, '')}</th>
              <td className="figure">{said(at(view?.case, field))}</td>
              <td className="figure">{said(at(told.change, field))}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </Modal>
  )
}

function said(value: unknown): string {
  if (value === null || value === undefined || value === '') return 'nothing'
  return typeof value === 'string' || typeof value === 'number' ? String(value) : JSON.stringify(value)
}
