import { fireEvent, screen, waitFor } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { expect, test, vi } from 'vitest'
import { viewOf } from '../../tests/fixtures'
import { server } from '../../tests/network'
import { draw } from '../../tests/page'
import type { JobView, Reading } from '../api/client'
import { HandOver } from './HandOver'
import { NoteRepair } from './NoteRepair'
import { Proof } from './Proof'
import { RepairSteps } from './RepairSteps'
import { WorkedTime } from './WorkedTime'

const nothing = () => undefined
const button = (name: string | RegExp) => screen.getByRole('button', { name })

test('a repair is noted with each act that is proposed, its part and its note', async () => {
  const onAct = vi.fn<(reading: Reading) => void>()
  const view = viewOf('decided')
  draw(<NoteRepair view={view} onAct={onAct} />)
  await userEvent.click(button('Note the repair'))
  await userEvent.type(screen.getByRole('textbox', { name: 'Part number fitted' }), ' 4711 ')
  await userEvent.click(button('Note it as done'))
  await waitFor(() => expect(onAct).toHaveBeenCalledTimes(Math.max(view.acts.length, 1)))
  expect(onAct.mock.calls.map(([reading]) => reading)).toEqual(
    view.acts.map((action) => ({ measure: 'act', action, value: 'done', part: '4711' })),
  )
})

test('who fits a part before the decision says why', async () => {
  const onAct = vi.fn<(reading: Reading) => void>()
  draw(<NoteRepair view={{ ...viewOf('testing'), acts: [], mends: [] }} onAct={onAct} />)
  await userEvent.click(button('I am fitting the part'))
  const note = button('Note it as done') as HTMLButtonElement
  await userEvent.click(screen.getAllByRole('checkbox')[0] as Element)
  expect(note.disabled).toBe(true)
  await userEvent.type(screen.getByRole('textbox', { name: 'Why now' }), 'the bus leaves at six')
  await waitFor(() => expect(note.disabled).toBe(false))
  await userEvent.click(note)
  await waitFor(() => expect(onAct.mock.calls[0]?.[0]).toMatchObject({ value: 'done', note: 'the bus leaves at six' }))
})

test('a proven vehicle is handed over by one touch', async () => {
  const asked = server(() => ({ body: viewOf('proven') }))
  const view = viewOf('proven')
  view.verdict.repair.closed = null
  draw(<HandOver view={view} onAct={nothing} />)
  await userEvent.click(button('Hand the vehicle over'))
  await waitFor(() => expect(asked.map(({ path, body }) => [path, body])).toContainEqual(['/api/jobs/0/close', { reason: '' }])) // prettier-ignore
})

test('an unproven one is closed with a reason, and not without', async () => {
  const asked = server(() => ({ body: viewOf('decided') }))
  draw(<HandOver view={viewOf('decided')} onAct={nothing} />)
  await userEvent.click(button('Close it unproven…'))
  const close = button('Close it') as HTMLButtonElement
  expect(close.disabled).toBe(true)
  await userEvent.type(screen.getByRole('textbox', { name: 'Why it is closed unproven' }), ' back on Monday ')
  await waitFor(() => expect(close.disabled).toBe(false))
  await userEvent.click(close)
  await waitFor(() => expect(asked[0]?.body).toEqual({ reason: 'back on Monday' }))
})

test('a code that comes back is noted as an act', async () => {
  const onAct = vi.fn<(reading: Reading) => void>()
  draw(<HandOver view={viewOf('proven')} onAct={onAct} />)
  await userEvent.click(button('The code came back'))
  expect(onAct).toHaveBeenCalledWith({ measure: 'act', action: 'clear-codes', value: 'returned-later' })
})

test('each row of the proof says what it should read, or what has shown it', () => {
  const view = viewOf('proven')
  draw(<Proof view={view} onTake={nothing} />)
  const rows = screen.getAllByRole('listitem')
  expect(rows).toHaveLength(view.verdict.repair.proof.length)
  view.verdict.repair.proof.forEach((item, at) => {
    const shown = typeof item.by === 'number'
    expect(rows[at]?.textContent).toContain(shown ? view.ledger[item.by as number]?.value : item.expect)
    expect(rows[at]?.className).toBe(shown ? 'met' : 'wanted')
  })
})

test('a step is ticked off at once, and its note and photos stay', async () => {
  const view = viewOf('decided')
  const step = view.sheets[0]?.steps[0]?.id ?? ''
  const ticked: JobView = { ...view, ticks: [{ step, done: false, note: 'wire green', by: '', at: '', photos: [7] }] }
  const asked = server(() => ({ body: [] }))
  draw(<RepairSteps view={ticked} />)
  fireEvent.click(screen.getAllByRole('checkbox')[0] as Element)
  await waitFor(() => expect(asked[0]?.body).toEqual({ done: true, note: 'wire green' }))
  expect(document.querySelector('img')?.getAttribute('src')).toBe('/api/photos/7.jpg')
})

test('the minutes are corrected together', async () => {
  const asked = server(() => ({ body: viewOf('decided') }))
  draw(
    <WorkedTime
      view={{ ...viewOf('decided'), time: { ...viewOf('decided').time, finding: 20, mending: 15, proving: 5 } }}
    />,
  )
  await userEvent.click(button('Correct'))
  const field = screen.getByRole('spinbutton', { name: /to find it/ })
  await userEvent.clear(field)
  await userEvent.type(field, '45')
  await userEvent.click(button('Save'))
  await waitFor(() => expect(asked[0]?.body).toEqual({ finding: 45, mending: 15, proving: 5 }))
})
