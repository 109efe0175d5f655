import { Tabs } from 'antd'
import { useSyncExternalStore } from 'react'
import type { JobView, Reading } from '../api/client'
import { Boundary } from '../shared/Boundary'
import { CodeCard } from './CodeCard'
import { Decide } from './Decide'
import { NextStep, OtherWays, type SideProps } from './NextStep'
import { Suspects } from './Suspects'

const NARROW = window.matchMedia('(max-width: 700px)')
const isPhone = () => NARROW.matches
const onWidth = (changed: () => void) => {
  NARROW.addEventListener('change', changed)
  return () => NARROW.removeEventListener('change', changed)
}

/** Beside the drawing: the next step and what it could be, always in view; the code, other ways and the checklist one touch away. */
export function BenchSide(props: SideProps & { onRetry: () => void; onAct: (reading: Reading) => void }) {
  const { view } = props
  const count = view.verdict.alternatives.length
  const phone = useSyncExternalStore(onWidth, isPhone)
  return (
    <aside className="bench-right">
      <Tabs
        size="small"
        defaultActiveKey="next"
        items={[
          {
            key: 'next',
            label: 'Next',
            children: (
              <Boundary what="The next step" at={view}>
                <NextStep {...props} />
              </Boundary>
            ),
          },
          {
            key: 'ways',
            label: count ? `Other ways ${count}` : 'Other ways',
            children: (
              <Boundary what="Other ways" at={view}>
                <OtherWays {...props} />
              </Boundary>
            ),
          },
          {
            key: 'decide',
            label: 'Decide',
            children: (
              <Boundary what="The checklist" at={view}>
                <Decide view={view} onAct={props.onAct} />
              </Boundary>
            ),
          },
          ...(phone ? [] : [{ key: 'code', label: 'Code', children: <Code view={view} /> }]), // there it is one of the screen's own tabs
        ]}
      />
      <Boundary what="What it could be" at={view}>
        <Suspects view={view} />
      </Boundary>
      <section className="code-tab" aria-label="What the code says">
        <Code view={view} />
      </section>
    </aside>
  )
}

function Code({ view }: { view: JobView }) {
  return (
    <Boundary what="What the code says" at={view}>
      <div className="code-card">
        <CodeCard
          job={view.id}
          codes={view.codes}
          primary={view.primary}
          where={view}
          kind={view.verdict.family_why ?? ''}
        />
      </div>
    </Boundary>
  )
}
