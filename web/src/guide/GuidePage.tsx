import { Button } from 'antd'
import { useEffect } from 'react'
import { Link, useLocation, useNavigate } from 'react-router'
import { contents, html } from '../../../docs/guide.md'
import { Corner } from '../shared/Corner'

/** The guide for technicians, opened at the place of the page that it was asked from. */
export function GuidePage() {
  const { hash, key } = useLocation()
  const navigate = useNavigate()
  useEffect(() => {
    document.getElementById(hash.slice(1))?.scrollIntoView()
  }, [hash])
  return (
    <main className="guide">
      <header className="bench-head">
        {key === 'default' ? (
          <Link to="/" className="quiet">
            ← Jobs
          </Link>
        ) : (
          <Button className="quiet" onClick={() => void navigate(-1)}>
            ← Back
          </Button>
        )}
        <h1>Guide</h1>
        <Corner />
      </header>
      <nav className="guide-contents" aria-label="Contents">
        {contents.map(({ id, title, depth }) => (
          <Link key={id} to={`#${id}`} replace className={`depth-${depth} ${hash === `#${id}` ? 'now' : ''}`}>
            {title}
          </Link>
        ))}
      </nav>
      {/* made from docs/guide.md when the front end was built: nothing that anybody typed stands in it */}
      <article className="guide-text" tabIndex={0} dangerouslySetInnerHTML={{ __html: html }} />
    </main>
  )
}
