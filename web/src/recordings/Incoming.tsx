import { Alert, Button, Input, Progress, Tabs } from 'antd'
import { useState } from 'react'
import {
  giveUp,
  type ImportView,
  importSamples,
  isUnderWay,
  type Mark,
  type RecordingsPage,
  useChooseColumns,
  useImport,
  useKeep,
} from '../api/recordings'
import { Problem } from '../shared/Problem'
import { Refused } from '../api/client'
import { Columns } from './Columns'
import { Look } from './Look'

interface IncomingProps {
  id: number
  name: string
  page: RecordingsPage
  /** Marks that were set while it was recorded. */
  marks: readonly Mark[]
  sensors: readonly string[]
  onKept: (page: RecordingsPage) => void
  onGivenUp: () => void
}

const DOING = {
  recording: ['The simulated instrument records…', 15],
  reading: ['Reading the file…', 40],
  measuring: ['Measuring…', 75],
  keeping: ['Making it ready…', 90],
  ready: ['', 100],
  refused: ['', 100],
} as const

/** A file that came in: looked at and corrected before anything of it is kept. */
export function Incoming(props: IncomingProps) {
  const { id, name, onGivenUp } = props
  const made = useImport(id, name)
  const stop = () => {
    giveUp(id, name)
    onGivenUp()
  }
  if (made.error) {
    return (
      <div className="incoming">
        <Problem error={made.error} />
        <Button onClick={onGivenUp}>Back</Button>
      </div>
    )
  }
  const { data } = made
  if (!data || isUnderWay(data)) {
    const [says, percent] = DOING[data?.state ?? 'reading']
    return (
      <div className="incoming" role="status">
        <p className="incoming-says">{says}</p>
        <Progress percent={percent} showInfo={false} status="active" />
        <Button onClick={stop}>Stop</Button>
      </div>
    )
  }
  if (data.state === 'refused') return <NotTaken {...props} made={data} onStop={stop} />
  return <Ready {...props} made={data} onStop={stop} />
}

/** A file that was refused; where its columns are known, they can be corrected. */
function NotTaken({ id, page, made, sensors, onStop }: IncomingProps & { made: ImportView; onStop: () => void }) {
  const choose = useChooseColumns(id)
  return (
    <div className="incoming">
      <h2>This file was not taken. Nothing of it is kept.</h2>
      <Problem error={new Refused({ message: 'The file was refused.', findings: made.findings })} />
      <Button onClick={onStop} size="large">
        Back
      </Button>
      {made.columns.length > 0 && (
        <Columns
          made={made}
          signals={page.signals}
          sensors={sensors}
          working={choose.isPending}
          onChoose={(chosen) => choose.mutate({ name: made.id, chosen })}
        />
      )}
    </div>
  )
}

function Ready({
  id,
  page,
  made,
  marks,
  sensors,
  onKept,
  onStop,
}: IncomingProps & { made: ImportView; onStop: () => void }) {
  const choose = useChooseColumns(id)
  const keep = useKeep(id)
  const [title, setTitle] = useState('')
  const shown = made.shown
  const own = [...marks, ...made.marks].filter((mark) => shown && mark.at_s <= shown.to_s)
  const columns = (
    <Columns
      made={made}
      signals={page.signals}
      sensors={sensors}
      working={choose.isPending}
      onChoose={(chosen) => choose.mutate({ name: made.id, chosen })}
    />
  )
  return (
    <div className="incoming-ready">
      <div className="incoming-bar">
        <strong>
          {shown ? 'Not kept yet. Look at it, then keep it.' : 'No column of this file is known: say what they are.'}
        </strong>
        <Input
          aria-label="What it is"
          placeholder="What it is, as: cold start before the repair"
          maxLength={120}
          value={title}
          onChange={(event) => setTitle(event.target.value)}
        />
        <Button
          type="primary"
          size="large"
          disabled={!shown}
          loading={keep.isPending}
          onClick={() => keep.mutate({ name: made.id, title, marks: own }, { onSuccess: onKept })}
        >
          Keep it
        </Button>
        <Button size="large" onClick={onStop}>
          Throw it away
        </Button>
      </div>
      {keep.error && <Problem error={keep.error} />}
      {choose.error && <Problem error={choose.error} />}
      {own.length > 0 && (
        <Alert
          type="info"
          showIcon
          title={own.length === 1 ? '1 mark comes with it.' : `${own.length} marks come with it.`}
        />
      )}
      {shown ? (
        <Tabs
          items={[
            {
              key: 'look',
              label: 'Curves and figures',
              children: (
                <Look id={id} base={importSamples(id, made.id)} shown={shown} choices={page.marks} marks={[]} />
              ),
            },
            {
              key: 'columns',
              label: `Columns: ${made.chosen.length} of ${made.columns.length} kept`,
              children: columns,
            },
          ]}
        />
      ) : (
        columns
      )}
    </div>
  )
}
