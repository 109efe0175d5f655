import { fireEvent, screen, waitFor, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { useReducer } from 'react'
import { expect, test, vi } from 'vitest'
import { given, viewOf } from '../../tests/fixtures'
import { server } from '../../tests/network'
import { draw } from '../../tests/page'
import type { JobView, Reading } from '../api/client'
import { type Action, type Draft, EMPTY, reduce } from './draft'
import { Ledger } from './Ledger'
import { Meter } from './Meter'
import { NextStep, OtherWays, type SideProps } from './NextStep'

const nothing = () => undefined

function Bench({ view, onTake, busy = false }: { view: JobView; onTake: (value?: string) => void; busy?: boolean }) {
  const [draft, dispatch] = useReducer((was: Draft, action: Action) => reduce(was, action, view.choices), EMPTY)
  const rest = { busy, sending: false, error: null, judged: undefined, shown: undefined }
  return <Meter view={view} draft={draft} dispatch={dispatch} onTake={onTake} {...rest} />
}

const display = () => screen.getByRole('textbox', { name: 'What the meter shows' })

test('the dial turns to another instrument, and its unit with it', () => {
  draw(<Bench view={viewOf('new')} onTake={nothing} />)
  fireEvent.click(screen.getByText(given.vocabulary.measures.resistance?.label ?? ''))
  expect(within(screen.getByRole('group', { name: 'State of the vehicle' })).getByText('apart')).toBeTruthy()
  expect(document.querySelector('.display .unit')?.textContent).toBe(given.vocabulary.units.resistance)
})

test('what is typed is taken once, by Enter', async () => {
  const onTake = vi.fn()
  draw(<Bench view={viewOf('new')} onTake={onTake} />)
  await userEvent.type(display(), '12.6{Enter}')
  expect(onTake).toHaveBeenCalledTimes(1)
})

test.each([
  ['nothing typed', '{Enter}', false],
  ['blanks', '  {Enter}', false],
  ['a reading while the one before is on its way', '12.6{Enter}', true],
])('%s is not taken', async (_, keys, busy) => {
  const onTake = vi.fn()
  draw(<Bench view={viewOf('new')} onTake={onTake} busy={busy} />)
  await userEvent.type(display(), keys)
  expect(onTake).not.toHaveBeenCalled()
})

function LedgerOf({ view, onAgain = nothing }: { view: JobView; onAgain?: (reading: Reading) => void }) {
  return <Ledger view={view} shown={null} onShow={nothing} onAgain={onAgain} tall={false} onTall={nothing} />
}

test('the ledger shows the newest first, and of a kind only what is of it', () => {
  const view = viewOf('testing')
  draw(<LedgerOf view={view} />)
  const values = () => [...document.querySelectorAll('.ledger .value')].map((item) => item.textContent)
  expect(values()).toEqual([...view.ledger].reverse().map((line) => line.value))
  fireEvent.click(screen.getByText('struck'))
  expect(values()).toEqual([])
  expect(screen.getByText('No readings of this kind.')).toBeTruthy()
})

test('a reading is struck out with its reason', async () => {
  const asked = server(() => ({ body: viewOf('testing') }))
  draw(<LedgerOf view={viewOf('testing')} />)
  fireEvent.click(document.querySelector('.line-main') as Element)
  fireEvent.click(screen.getByRole('button', { name: 'Strike' }))
  fireEvent.change(screen.getByRole('textbox', { name: 'Reason for striking out' }), { target: { value: 'wrong pin' } })
  fireEvent.submit(screen.getByRole('textbox', { name: 'Reason for striking out' }))
  await waitFor(() => expect(asked.map((item) => item.path)).toContain(`/api/jobs/0/readings/${viewOf('testing').ledger.length - 1}/strike`)) // prettier-ignore
  expect(asked.at(-1)?.body).toEqual({ reason: 'wrong pin' })
})

test('the same reading again says what was done against a slip, and brings no note along', () => {
  const onAgain = vi.fn<(reading: Reading) => void>()
  const view = viewOf('testing')
  draw(<LedgerOf view={view} onAgain={onAgain} />)
  fireEvent.click(document.querySelector('.line-main') as Element)
  fireEvent.click(screen.getByRole('button', { name: 'Again, the same' }))
  fireEvent.click(screen.getByRole('button', { name: 'Nothing changed' }))
  const last = view.case.readings.at(-1)
  expect(onAgain).toHaveBeenCalledWith({ ...last, note: null, taken: null, checked: null })
})

test('who only reads can strike nothing out', () => {
  draw(<LedgerOf view={viewOf('testing')} />, 'reader')
  fireEvent.click(document.querySelector('.line-main') as Element)
  expect(screen.getByRole('button', { name: 'Strike' }).matches(':disabled, fieldset:disabled *')).toBe(true)
  expect(screen.getByRole('button', { name: 'Without it?' }).matches(':disabled, fieldset:disabled *')).toBe(false)
})

type Side = SideProps & { onRetry: () => void }

function side(view: JobView, change: Partial<Side> = {}): Side {
  const acts = {
    onStyle: nothing,
    onPick: nothing,
    onCannot: nothing,
    onBack: nothing,
    onOwn: nothing,
    onVoltage: nothing,
  }
  return { view, draft: EMPTY, ...acts, problem: null, onRetry: nothing, ...change }
}

test('the next step says what to read, what it should show, and what can hurt', () => {
  server(() => ({ status: 503 }))
  const view = viewOf('new')
  draw(<NextStep {...side(view)} />)
  const next = screen.getByRole('region', { name: 'Next step' })
  expect(next.textContent).toContain(view.next_words?.short_step)
  expect(next.textContent).toContain(view.verdict.next?.expect)
  for (const line of view.verdict.next?.cautions ?? []) expect(next.textContent).toContain(line)
})

test('a proposal that cannot be taken is put aside with one of three reasons', () => {
  const onCannot = vi.fn()
  const view = viewOf('new')
  draw(<NextStep {...side(view, { onCannot })} />)
  fireEvent.click(screen.getByRole('button', { name: 'I can’t take this one' }))
  fireEvent.click(screen.getByRole('button', { name: 'cannot reach it' }))
  expect(onCannot).toHaveBeenCalledWith(view.verdict.next?.id, 'cannot reach it')
})

test('while what follows is worked out the old step stands still', () => {
  draw(<NextStep {...side({ ...viewOf('new'), behind: 'working' })} />)
  const next = screen.getByLabelText('Next step')
  expect([next.getAttribute('aria-busy'), next.hasAttribute('inert')]).toEqual(['true', true])
})

test('what could not be worked out can be tried again', () => {
  const onRetry = vi.fn()
  draw(<NextStep {...side({ ...viewOf('new'), behind: 'failed' }, { onRetry })} />)
  fireEvent.click(screen.getByRole('button', { name: 'Try again' }))
  expect(onRetry).toHaveBeenCalledTimes(1)
})

test('where the voltage is not known it is asked first', () => {
  const onVoltage = vi.fn()
  draw(<NextStep {...side({ ...viewOf('new'), asks_voltage: true }, { onVoltage })} />)
  fireEvent.click(screen.getByRole('button', { name: '24 V' }))
  expect(onVoltage).toHaveBeenCalledWith(24)
})

test('a decision stands with its reasons and the ways on', () => {
  server(() => ({ status: 503 }))
  const view = viewOf('decided')
  draw(<NextStep {...side(view)} />)
  expect(screen.getByRole('heading', { name: view.summary.title })).toBeTruthy()
  for (const line of view.verdict.because) expect(screen.getByText(line)).toBeTruthy()
  expect(screen.getByRole('link', { name: 'Mend it: repair sheet' }).getAttribute('href')).toBe('/jobs/0/mend')
})

test('another way is taken by a touch', () => {
  server(() => ({ status: 503 }))
  const onPick = vi.fn()
  const view = viewOf('new')
  draw(<OtherWays {...side(view, { onPick })} />)
  const first = view.alternative_words[0]?.short_step ?? ''
  fireEvent.click(screen.getAllByText(first)[0] as Element)
  expect(onPick).toHaveBeenCalledWith(view.verdict.alternatives[0]?.reading)
})
