import { Link } from 'react-router'
import { Writers } from '../people/Writers'
import { Corner } from '../shared/Corner'
import { Jobs } from './Jobs'
import { NewJob } from './NewJob'

export function StartPage() {
  return (
    <main className="start">
      <header className="start-head">
        <h1>Dianoia</h1>
        <p>From the sensor code to the part at fault, with the evidence.</p>
        <Link to="/workshop" className="quiet">
          Workshop
        </Link>
        <Link to="/sums" className="quiet">
          Quick sums
        </Link>
        <Link to="/codes" className="quiet">
          Code book
        </Link>
        <Corner />
      </header>
      <Writers>
        <NewJob />
      </Writers>
      <Jobs />
    </main>
  )
}
