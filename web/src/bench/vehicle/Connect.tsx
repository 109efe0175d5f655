import { Button, Popconfirm } from 'antd'
import type { JobView } from '../../api/client'
import { useChangeJob } from '../../api/jobs'
import { Writers } from '../../people/Writers'

/** A job without readings may be tried on a simulated vehicle; it stays one. */
export function Connect({ view }: { view: JobView }) {
  const change = useChangeJob(view.id)
  if (view.case.simulated !== null && view.case.simulated !== undefined) return null
  const seed = () => crypto.getRandomValues(new Uint32Array(1))[0] ?? 1
  return (
    <Writers>
      <Popconfirm
        title="Connect this job to a simulated vehicle?"
        description="It has a hidden fault that sets this code. The job stays marked as simulated and counts in no statistics."
        okText="Connect it"
        cancelText="Not now"
        onConfirm={() => change.mutate({ simulated: seed() })}
      >
        <Button loading={change.isPending}>Try it on a simulated vehicle</Button>
      </Popconfirm>
    </Writers>
  )
}
