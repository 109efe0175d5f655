import { screen, waitFor } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { expect, test } from 'vitest'
import { viewOf } from '../../tests/fixtures'
import { server } from '../../tests/network'
import { draw } from '../../tests/page'
import { PinTable } from './PinTable'

test('a pin is kept with its colour, and one that is emptied is taken away', async () => {
  const asked = server(() => ({ body: viewOf('new') }))
  const view = viewOf('new')
  view.case.sensor = { ...view.case.sensor, pins: { '2': { terminal: 'signal', colour: 'grey' } } } as never
  view.plug.cavities = [
    { ...view.plug.cavities[0], number: '1', terminal: 'heater_supply', colour: '', assumed: true },
    { ...view.plug.cavities[1], number: '2', terminal: 'signal', colour: 'grey', assumed: false },
  ] as never
  draw(<PinTable view={view} />)
  await userEvent.type(screen.getByRole('textbox', { name: 'Wire colour of cavity 1' }), 'black')
  await userEvent.clear(screen.getByRole('textbox', { name: 'Wire colour of cavity 2' }))
  await userEvent.clear(screen.getByRole('textbox', { name: 'Cavity number, row 2' }))
  await userEvent.click(screen.getByRole('button', { name: 'Keep the pin table' }))
  await waitFor(() => expect(asked.find((item) => item.method === 'PATCH')?.body).toEqual({ sensor: { pins: { '1': { terminal: null, colour: 'black' }, '2': null } } })) // prettier-ignore
})
