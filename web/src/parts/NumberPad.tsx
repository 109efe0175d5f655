const KEYS = ['7', '8', '9', 'k', '4', '5', '6', 'M', '1', '2', '3', 'm', '0', '.', 'OL', '⌫']

/** Large keys for a gloved hand; the keyboard does the same. */
export function NumberPad({ value, onChange, onEnter }: { value: string; onChange: (value: string) => void; onEnter: () => void }) {
  const press = (key: string) => {
    if (key === '⌫') return onChange(value.slice(0, -1))
    onChange(key === 'OL' ? 'OL' : value + key)
  }
  return (
    <div className="pad" role="group" aria-label="Number pad">
      {KEYS.map((key) => (
        <button key={key} type="button" tabIndex={-1} onClick={() => press(key)} aria-label={key === '⌫' ? 'Delete last' : key}>
          {key}
        </button>
      ))}
      <button type="button" tabIndex={-1} className="pad-enter" disabled={!value.trim()} onClick={onEnter}>
        Take it
      </button>
    </div>
  )
}
