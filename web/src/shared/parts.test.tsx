import { fireEvent, screen, waitFor } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { act } from 'react'
import { afterEach, describe, expect, test, vi } from 'vitest'
import { viewOf } from '../../tests/fixtures'
import { server } from '../../tests/network'
import { draw } from '../../tests/page'
import { Refused } from '../api/client'
import { WaitingBanner } from '../people/WaitingBanner'
import { ClashAsked } from './ClashAsked'
import { clash } from './clash'
import { AfterRepair, BeforeFitting, Gate } from './Gate'
import { JobProgress } from './JobProgress'
import { Keys } from './Keys'
import { othersWaiting, waiting } from './outbox'
import { Problem } from './Problem'
import { VehicleForm } from './VehicleForm'

describe('two people changed the same', () => {
  afterEach(() => act(() => clash.tell(null)))

  const both = { job: 0, change: { vehicle: { system_voltage: 24 } }, fields: ['vehicle.system_voltage'], by: 'Beppo' }

  function shown() {
    const view = viewOf('new')
    view.case.vehicle.system_voltage = 12
    const page = draw(<ClashAsked />)
    page.queries.setQueryData(['job', 0], view)
    act(() => clash.tell(both as never))
    return page
  }

  test('both stand side by side', async () => {
    shown()
    const cells = await waitFor(() => [...document.querySelectorAll('.clash td')].map((cell) => cell.textContent))
    expect(cells).toEqual(['12', '24'])
  })

  test('mine is sent again only when it is chosen', async () => {
    const asked = server(() => ({ body: viewOf('new') }))
    shown()
    expect(asked).toEqual([])
    await userEvent.click(await screen.findByRole('button', { name: 'Use mine' }))
    await waitFor(() => expect(clash.now()).toBeNull())
    expect(asked[0]).toMatchObject({ method: 'PATCH', body: both.change })
  })

  test('theirs stays without a word to the server', async () => {
    const asked = server(() => ({ body: {} }))
    shown()
    await userEvent.click(await screen.findByRole('button', { name: 'Keep Beppo’s' }))
    expect([clash.now(), asked]).toEqual([null, []])
  })
})

describe('what waits on this device', () => {
  afterEach(() =>
    act(() => {
      waiting.tell([])
      othersWaiting.tell([])
    }),
  )

  const item = { key: 'a-0-b', job: 7, body: {} as never, person: 1, name: 'Ana', late: true }

  test.each([
    ['nothing, while a reading is on its way', [{ ...item, late: false }], [], ''],
    ['mine', [item, { ...item, key: 'a-1-b' }], [], '2 readings are kept on this device. They are sent as soon as'],
    [
      'somebody else’s',
      [],
      [{ person: 2, name: 'Beppo', jobs: [4] }],
      '1 reading is kept on this device. Beppo must say who',
    ],
  ])('is said: %s', (_, mine, others, says) => {
    waiting.tell(mine)
    othersWaiting.tell(others)
    const { container } = draw(<WaitingBanner />)
    if (says) expect(container.textContent).toContain(says)
    else expect(container.textContent).toBe('')
  })
})

test('the gate shows each row by how it stands', () => {
  const rows = (['met', 'waived', 'wanted'] as const).map((status, at) => ({ ...viewOf('testing').verdict.gate[0], status, asks: `row ${at}` })) // prettier-ignore
  const { container } = draw(<Gate rows={rows as never} />)
  expect([...container.querySelectorAll('.gate-mark')].map((mark) => mark.textContent)).toEqual(['✓', '–', '○'])
})

test('what is read before fitting and after the repair is a touch away', async () => {
  const onPick = vi.fn()
  const view = viewOf('decided')
  draw(<BeforeFitting view={view} onPick={onPick} />)
  draw(<AfterRepair view={view} />)
  for (const words of view.before_words) expect(document.body.textContent).toContain(words.step)
  const first = screen.queryAllByRole('button')[0]
  if (first) {
    await userEvent.click(first)
    expect(onPick).toHaveBeenCalledWith(view.verdict.before_fitting[0]?.read)
  } else expect(view.before_words).toEqual([])
})

test('the job’s stage is marked among the others', () => {
  const view = viewOf('testing')
  draw(<JobProgress view={view} />)
  const now = view.summary.steps.find((step) => step.state === 'now')
  expect(document.querySelector('[aria-current="step"]')?.textContent).toBe(now?.label)
})

test('a problem names its fields as people call them', () => {
  const findings = [{ field: 'readings[0].sensor_c', expected: 'a temperature', found: 'warm' }]
  draw(<Problem error={new Refused({ message: 'no', findings }, 422)} />)
  expect(document.body.textContent).toContain('Reading 1, element temperature')
  expect(document.body.textContent).toContain('a temperature')
})

test('? shows the keys, and a letter typed into a field is no command', async () => {
  draw(
    <>
      <Keys />
      <input aria-label="field" />
    </>,
  )
  await userEvent.type(screen.getByRole('textbox', { name: 'field' }), 'p?')
  expect(screen.queryByText('Keys')).toBeNull()
  await userEvent.click(document.body)
  await userEvent.keyboard('?')
  expect(await screen.findByText('Keys')).toBeTruthy()
})

test.each([
  ['Layout', 'flat', { layout: 'flat' }],
  ['Cylinders', '4', { cylinders: 4 }],
  ['Sensor banks', 'one', { sensor_banks: 1 }],
])('of the vehicle’s layout only what was changed is sent: %s', async (label, option, engine) => {
  const asked = server(({ method }) => ({ body: method === 'GET' ? [] : viewOf('new') }))
  draw(<VehicleForm view={viewOf('new')} />)
  await userEvent.click(screen.getByRole('combobox', { name: label }))
  const items = await waitFor(() => [...document.querySelectorAll('.ant-select-item-option')])
  fireEvent.click(items.find((item) => item.textContent === option) as Element)
  await waitFor(() => expect(asked.find((item) => item.method === 'PATCH')?.body).toEqual({ vehicle: { engine } }))
})
