import { Alert, Button, Form } from 'antd'
import { Link } from 'react-router'
import type { Schemas } from '../api/client'
import { useSetWorkshop, useWorkshop } from '../api/workshop'
import { Writers } from '../people/Writers'
import { Corner } from '../shared/Corner'
import { Problem } from '../shared/Problem'
import { Minutes, OnThePapers, Outcomes, ToolsAtHand, Worth } from './sections'
import { asSettings, asTyped, type Typed } from './settings'

/** What the workshop has and what its time is worth. It orders the readings and says when certainty pays; never the proof. */
export function WorkshopPage() {
  const workshop = useWorkshop()
  if (workshop.error && !workshop.data) return <Problem error={workshop.error} />
  if (!workshop.data) return <p className="muted waiting">Fetching the settings…</p>
  return <SettingsForm view={workshop.data} />
}

function SettingsForm({ view }: { view: Schemas['WorkshopView'] }) {
  const save = useSetWorkshop()
  const [form] = Form.useForm<Typed>()
  const trouble = [view.copies_overdue, view.ledger_broken].filter(Boolean).join(' ')
  return (
    <main>
      <Form
        form={form}
        className="workshop"
        initialValues={asTyped(view.settings)}
        onFinish={(typed: Typed) => save.mutate(asSettings(typed))}
      >
        <Head saved={save.isSuccess} saving={save.isPending} />
        {trouble && <Alert type="warning" showIcon title={trouble} />}
        <Writers>
          <ToolsAtHand />
          <Minutes general={view.general_minutes} />
          <Worth />
          {save.error && <Problem error={save.error} />}
          <Outcomes outcomes={view.outcomes} />
          <OnThePapers mark={view.mark ?? null} />
        </Writers>
      </Form>
    </main>
  )
}

function Head({ saved, saving }: { saved: boolean; saving: boolean }) {
  return (
    <header className="bench-head">
      <Link to="/" className="quiet">
        ← Jobs
      </Link>
      <h1>The workshop</h1>
      {saved && (
        <span className="saved" role="status">
          Saved
        </span>
      )}
      <Writers>
        <Button type="primary" htmlType="submit" disabled={saving}>
          Save
        </Button>
      </Writers>
      <Corner />
    </header>
  )
}
