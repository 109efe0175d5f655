import { Button, Popconfirm } from 'antd'
import type { Mark, MarkChoice } from '../api/recordings'
import { told } from './view'

interface MarkBarProps {
  choices: readonly MarkChoice[]
  marks: readonly Mark[]
  /** The moment a mark would be set at; null before the curve was touched. */
  at: number | null
  onMarks: (marks: Mark[]) => void
  onShow: (at: number) => void
  /** Nothing is marked at the touched moment. */
  onLeave: () => void
}

/** Marks on a recording: touch the curve, then say what was done there. The number is its key. */
export function MarkBar({ choices, marks, at, onMarks, onShow, onLeave }: MarkBarProps) {
  return (
    <section className="mark-bar" aria-label="Marks">
      <p className="mark-says">
        {at === null ? (
          'Touch the curve where something was done, then say what.'
        ) : (
          <>
            At <strong className="figure">{told(at)}</strong> was:
          </>
        )}
      </p>
      {at !== null && (
        <div className="mark-choices">
          {choices.map((choice, place) => (
            <Button key={choice.id} onClick={() => onMarks(added(marks, { at_s: at, event: choice.id, note: '' }))}>
              {place < 9 && <kbd>{place + 1}</kbd>} {choice.label}
            </Button>
          ))}
          <Button onClick={onLeave}>Nothing</Button>
        </div>
      )}
      {at === null && marks.length > 0 && (
        <ul className="mark-list">
          {marks.map((mark) => (
            <li key={`${mark.at_s}${mark.event}`}>
              <Button onClick={() => onShow(mark.at_s)}>
                {choices.find((choice) => choice.id === mark.event)?.label ?? mark.event}, {told(mark.at_s)}
              </Button>
              <Popconfirm
                title="Take this mark away?"
                okText="Take it away"
                cancelText="Keep it"
                onConfirm={() => onMarks(marks.filter((other) => other !== mark))}
              >
                <Button aria-label={`Take the mark at ${told(mark.at_s)} away`}>×</Button>
              </Popconfirm>
            </li>
          ))}
        </ul>
      )}
    </section>
  )
}

/** Marks in the order of time; the same mark at the same moment once. */
export function added(marks: readonly Mark[], mark: Mark): Mark[] {
  const rounded = { ...mark, at_s: Math.max(0, Math.round(mark.at_s * 1000) / 1000) }
  const others = marks.filter((other) => other.at_s !== rounded.at_s || other.event !== rounded.event)
  return [...others, rounded].sort((one, other) => one.at_s - other.at_s)
}
