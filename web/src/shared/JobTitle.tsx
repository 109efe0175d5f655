import type { JobView } from '../api/client'

/** Which job a page is about: its codes, the vehicle, and the sensor's place. */
export function JobTitle({ view }: { view: JobView }) {
  return (
    <h1>
      <span className="figure">{view.case.codes.map((item) => item.code).join(' ')}</span> {view.case.vehicle.label}
      <span className="where">{view.where}</span>
    </h1>
  )
}
