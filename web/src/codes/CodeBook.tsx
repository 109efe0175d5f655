import { Input, Select } from 'antd'
import { useState } from 'react'
import { Link } from 'react-router'
import type { Decoded } from '../api/client'
import { useCodeBook } from '../api/reference'
import { Corner } from '../shared/Corner'
import { Problem } from '../shared/Problem'

const CIRCUITS = ['heater', 'signal', 'reference', 'pump', 'return', 'trim', 'supply', 'communication', 'swap']

export interface BookSearch {
  words: string
  bank: string
  position: string
  circuit: string
}

/** Every listed code, to browse and search without a job. */
export function CodeBook() {
  const [wanted, setWanted] = useState<BookSearch>({ words: '', bank: '', position: '', circuit: '' })
  const [picked, setPicked] = useState<string | null>(null)
  const book = useCodeBook(wanted)
  const codes = book.data ?? []
  const shown = codes.find((code) => code.code === picked) ?? codes[0]
  const set = (part: Partial<BookSearch>) => setWanted({ ...wanted, ...part })
  return (
    <main className="book">
      <header className="bench-head">
        <Link to="/" className="quiet">
          ← Jobs
        </Link>
        <h1>Code book</h1>
        <Corner />
      </header>
      <div className="book-search" role="search">
        <Input
          autoFocus
          allowClear
          value={wanted.words}
          onChange={(event) => set({ words: event.target.value })}
          placeholder="P0057, slow, lean, heater low…"
          aria-label="Code or words"
        />
        <Pick label="Bank" value={wanted.bank} options={['1', '2']} onChange={(bank) => set({ bank })} />
        <Pick
          label="Sensor"
          value={wanted.position}
          options={['1', '2', '3']}
          onChange={(position) => set({ position })}
        />
        <Pick label="Circuit" value={wanted.circuit} options={CIRCUITS} onChange={(circuit) => set({ circuit })} />
        <span className="muted">{codes.length} codes</span>
      </div>
      {book.error && <Problem error={book.error} />}
      <ul className="plain book-list" aria-label="Codes">
        {codes.map((code) => (
          <li key={code.code}>
            <button type="button" aria-pressed={shown?.code === code.code} onClick={() => setPicked(code.code)}>
              <span className="figure">{code.code}</span> {code.title}
            </button>
          </li>
        ))}
        {codes.length === 0 && book.isSuccess && (
          <li className="muted">No listed code fits. Fewer words, or another bank?</li>
        )}
      </ul>
      <section className="book-page" aria-live="polite" aria-label="The code">
        {shown && <Page code={shown} />}
      </section>
    </main>
  )
}

function Page({ code }: { code: Decoded }) {
  return (
    <>
      <h2 className="figure code-name">{code.code}</h2>
      <p>
        <strong>{code.title}.</strong>
      </p>
      <p>{code.explains}</p>
      <p className="not-said">{code.does_not_say}</p>
      <p>{code.severity}</p>
      <p>
        {code.onset === 'hard'
          ? 'Tends to be a hard fault: there when you measure.'
          : code.onset === 'drive'
            ? 'Tends to need a drive to come back.'
            : ''}
      </p>
      <p className="why">{code.clear_and_see}</p>
      {code.twin && <p className="muted">Its twin on the other bank: {code.twin}</p>}
    </>
  )
}

function Pick(props: { label: string; value: string; options: string[]; onChange: (value: string) => void }) {
  return (
    <div className="choice-row">
      <span>{props.label}</span>
      <Select
        aria-label={props.label}
        value={props.value}
        onChange={props.onChange}
        options={[{ value: '', label: 'any' }, ...props.options.map((option) => ({ value: option, label: option }))]}
      />
    </div>
  )
}
