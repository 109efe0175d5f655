import { Button, Input, Select, Table } from 'antd'
import { useState } from 'react'
import type { ChosenColumn, ImportView, RecordingsPage } from '../api/recordings'

interface ColumnsProps {
  made: ImportView
  signals: RecordingsPage['signals']
  sensors: readonly string[]
  working: boolean
  onChoose: (chosen: ChosenColumn[]) => void
}

type Row = ImportView['columns'][number]
type Choices = ReadonlyMap<number, ChosenColumn>

/** The columns of a file, with what each would be kept as; what is not chosen is thrown away. */
export function Columns({ made, signals, sensors, working, onChoose }: ColumnsProps) {
  const [chosen, setChosen] = useState<Choices>(() => new Map(made.chosen.map((one) => [one.place, one])))
  const change = (row: Row, next: Partial<ChosenColumn> | null) => {
    const others = new Map(chosen)
    if (next === null) others.delete(row.place)
    else
      others.set(row.place, {
        of: row.of,
        unit: row.unit,
        signal: '',
        ...others.get(row.place),
        ...next,
        place: row.place,
      })
    setChosen(others)
  }
  const same = JSON.stringify(sorted(chosen)) === JSON.stringify([...made.chosen].sort((a, b) => a.place - b.place))
  return (
    <div className="columns">
      <Table<Row>
        size="small"
        rowKey="place"
        dataSource={made.columns}
        pagination={made.columns.length > 40 ? { pageSize: 40, showSizeChanger: false } : false}
        columns={[
          {
            title: 'Column',
            dataIndex: 'heading',
            render: (heading: string, row) => <Heading heading={heading} row={row} />,
          },
          {
            title: 'Kept as',
            render: (_, row) => (
              <Select
                aria-label={`What ${row.heading} is`}
                value={chosen.get(row.place)?.signal ?? ''}
                onChange={(signal) => change(row, signal === '' ? null : { signal })}
                showSearch={{ optionFilterProp: 'label' }}
                options={[
                  { value: '', label: 'left out' },
                  ...signals.map((item) => ({
                    value: item.id,
                    label: item.unit ? `${item.label}, ${item.unit}` : item.label,
                  })),
                ]}
              />
            ),
          },
          {
            title: 'Of',
            render: (_, row) => {
              const one = chosen.get(row.place)
              return one ? (
                <Of
                  row={row}
                  one={one}
                  belongsTo={signals.find((item) => item.id === one.signal)?.belongs_to}
                  sensors={sensors}
                  onChange={(of) => change(row, { of })}
                />
              ) : null
            },
          },
        ]}
      />
      <Button
        type={same ? 'default' : 'primary'}
        size="large"
        disabled={same}
        loading={working}
        onClick={() => onChoose(sorted(chosen))}
      >
        {same ? 'This is what is drawn' : 'Read it again so'}
      </Button>
    </div>
  )
}

const sorted = (chosen: Choices) => [...chosen.values()].filter((one) => one.signal).sort((a, b) => a.place - b.place)

function Heading({ heading, row }: { heading: string; row: Row }) {
  return (
    <>
      <strong>{heading}</strong>
      <br />
      <span className="figure muted">{row.shows.join('  ')}</span>
    </>
  )
}

interface OfProps {
  row: Row
  one: ChosenColumn
  belongsTo: RecordingsPage['signals'][number]['belongs_to'] | undefined
  sensors: readonly string[]
  onChange: (of: string | null) => void
}

function Of({ row, one, belongsTo, sensors, onChange }: OfProps) {
  if (belongsTo === 'engine') return <span className="muted">the engine</span>
  if (belongsTo === 'point') {
    return (
      <Input
        aria-label={`Where the lead of ${row.heading} lies`}
        placeholder="harness.heater_control"
        value={one.of ?? ''}
        onChange={(event) => onChange(event.target.value || null)}
      />
    )
  }
  return (
    <Select
      aria-label={`Sensor of ${row.heading}`}
      value={one.of ?? ''}
      onChange={(of) => onChange(of || null)}
      options={[{ value: '', label: 'not said' }, ...sensors.map((sensor) => ({ value: sensor, label: sensor }))]}
    />
  )
}
