import { Link, useLocation } from 'react-router'

/** Address of a page -> its place in the guide; the first that fits. */
const PLACES: [RegExp, string][] = [
  [/^\/jobs\/\d+\/place/, 'place'], [/^\/jobs\/\d+\/figures/, 'figures'], [/^\/jobs\/\d+\/sheet/, 'decision'], [/^\/jobs\/\d+\/mend/, 'repair'],
  [/^\/jobs\/\d+\/papers/, 'papers'], [/^\/jobs\/\d+\/curves/, 'curves'], [/^\/jobs\/\d+/, 'bench'], [/^\/codes/, 'code-book'], [/^\/sums/, 'quick-sums'], [/^\/workshop/, 'workshop'],
  [/^\/people/, 'people'], [/^\/$/, 'start-page'],
] // prettier-ignore

/** To the guide, at the place of the page at hand. */
export function GuideLink() {
  const { pathname } = useLocation()
  const place = PLACES.find(([page]) => page.test(pathname))?.[1]
  if (!place) return null
  return (
    <Link
      to={`/guide#${place}`}
      className="quiet guide-link"
      aria-label="Guide to this page"
      title="Guide to this page"
    >
      ?
    </Link>
  )
}
