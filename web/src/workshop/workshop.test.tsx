import { fireEvent, screen, waitFor } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { describe, expect, test } from 'vitest'
import { type Asked, server } from '../../tests/network'
import { draw } from '../../tests/page'
import { asSettings, asTyped, type Settings, TOOLS } from './settings'
import { WorkshopPage } from './WorkshopPage'

const NONE: Settings = {}
const OWN = { tools: ['meter', 'lamp'], minutes: { scan: 0.5 }, labour_per_hour: 90, part_price: 120.5, currency: 'EUR', name: 'Depot', paper: 'letter', incomplete: 1 } as unknown as Settings // prettier-ignore

describe('the settings', () => {
  test('come back as they were', () => {
    expect(asSettings(asTyped(OWN))).toEqual({ ...OWN, wrong_call_cost: null })
  })

  test('that were never made are all tools and no figure', () => {
    expect(asTyped(NONE).tools).toEqual(TOOLS.map(({ value }) => value))
    expect(asSettings(asTyped(NONE))).toEqual({ tools: null, minutes: {}, labour_per_hour: null, part_price: null, wrong_call_cost: null, currency: null, name: null, paper: 'a4', incomplete: null }) // prettier-ignore
  })

  test('take a comma, leave an emptied field out, and send what is no number for the server to say so', () => {
    const typed = {
      ...asTyped(OWN),
      part_price: '99,5',
      labour_per_hour: 'a lot',
      minutes: { scan: ' ', battery: '2' },
    }
    expect(asSettings(typed)).toMatchObject({ part_price: 99.5, labour_per_hour: 'a lot', minutes: { battery: 2 } })
  })
})

const VIEW = { settings: OWN, general_minutes: { scan: 0.3, battery: 0.5 }, outcomes: [], mark: null, copies_overdue: '', ledger_broken: '' } // prettier-ignore

function served(refused = false): Asked[] {
  return server(({ method }) =>
    method === 'PUT' && refused
      ? { status: 422, body: { message: 'labour_per_hour: expected a number', findings: [] } }
      : { body: VIEW },
  )
}

test('what is typed is sent as a whole, and said to be saved', async () => {
  const asked = served()
  draw(<WorkshopPage />)
  const field = await screen.findByRole('textbox', { name: /A sensor costs/ })
  await userEvent.clear(field)
  await userEvent.type(field, '80')
  await userEvent.click(screen.getByRole('button', { name: 'Save' }))
  await screen.findByText('Saved')
  expect(asked.find((item) => item.method === 'PUT')?.body).toEqual({ ...OWN, part_price: 80, wrong_call_cost: null })
})

test('the general figure stands where the workshop gives none', async () => {
  served()
  draw(<WorkshopPage />)
  const field = await screen.findByRole('textbox', { name: /to the battery/ })
  expect([field.getAttribute('placeholder'), (field as HTMLInputElement).value]).toEqual(['0.5', ''])
})

test('what the server refuses is said, and what was typed stays', async () => {
  served(true)
  draw(<WorkshopPage />)
  const field = await screen.findByRole('textbox', { name: /Labour, an hour/ })
  fireEvent.change(field, { target: { value: 'a lot' } })
  await userEvent.click(screen.getByRole('button', { name: 'Save' }))
  await waitFor(() => expect(document.body.textContent).toContain('expected a number'))
  expect((field as HTMLInputElement).value).toBe('a lot')
})
