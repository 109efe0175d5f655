import { screen, waitFor } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { expect, test } from 'vitest'
import { server } from '../../tests/network'
import { draw } from '../../tests/page'
import { CodeBook } from '../codes/CodeBook'
import { SumsPage } from './SumsPage'

test('a sum is asked for with what is typed, and a field that is empty asks for none', async () => {
  const asked = server(() => ({ body: { rows: [{ name: 'cold', value: '2.3 A' }], said: '5.5 ohm', ohms_20c: [5, 6] } })) // prettier-ignore
  draw(<SumsPage />)
  expect((await screen.findAllByText('2.3 A')).length).toBeGreaterThan(0)
  expect(asked.some((item) => item.path.endsWith('resistance'))).toBe(false)
  await userEvent.type(screen.getByRole('textbox', { name: /Or a measured current/ }), '1')
  await waitFor(() => expect(asked.some((item) => item.path.endsWith('resistance'))).toBe(true))
})

test('what is no number is said at its card, and the other cards stand', async () => {
  server(({ path }) =>
    path.endsWith('heater')
      ? { status: 422, body: { message: 'ohms_20c: expected ohms', findings: [] } }
      : { body: { said: '7 ohm', ohms_20c: [7, 7], rows: [] } },
  )
  draw(<SumsPage />)
  await waitFor(() => expect(document.body.textContent).toContain('expected ohms'))
  expect(document.body.textContent).toContain('7 ohm')
})

test('the code book is searched by words, and shows what a touched code says', async () => {
  const code = (name: string, title: string) => ({ code: name, title, explains: `${title} explained`, kind: 'oxygen', bank: 1, position: 1, sensors: [], says: [], checks: [] }) // prettier-ignore
  const asked = server(() => ({ body: [code('P0135', 'Heater circuit'), code('P0133', 'Slow response')] }))
  draw(<CodeBook />)
  await userEvent.type(screen.getByRole('textbox', { name: 'Code or words' }), 'slow')
  await waitFor(() => expect(asked.length).toBeGreaterThan(1))
  await userEvent.click((await screen.findAllByText('P0133'))[0] as Element)
  expect((await screen.findAllByText('Slow response')).length).toBeGreaterThan(0)
})
