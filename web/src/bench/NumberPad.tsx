const KEYS = ['7', '8', '9', 'k', '4', '5', '6', 'M', '1', '2', '3', 'm', '0', '.', 'OL', '⌫']

/** Large keys for a gloved hand; the keyboard does the same. span: whether a live value may be typed as what it ran through. */
export function NumberPad({
  value,
  span,
  onChange,
  onEnter,
}: {
  value: string
  span: boolean
  onChange: (value: string) => void
  onEnter: () => void
}) {
  const press = (key: string) => {
    if (key === '⌫') {
      onChange(value.slice(0, -1))
      return
    }
    onChange(key === 'OL' ? 'OL' : value + key)
  }
  const keys = span ? KEYS.map((key) => (key === 'OL' ? '-' : key)) : KEYS
  return (
    <div className="pad" role="group" aria-label="Number pad">
      {keys.map((key) => (
        <button key={key} type="button" tabIndex={-1} onClick={() => press(key)} aria-label={SAID[key] ?? key}>
          {key}
        </button>
      ))}
      <button type="button" tabIndex={-1} className="pad-enter" disabled={!value.trim()} onClick={onEnter}>
        Take it
      </button>
    </div>
  )
}

const SAID: Record<string, string> = { '⌫': 'Delete last', '-': 'to' }
