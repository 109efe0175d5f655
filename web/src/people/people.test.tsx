import { screen, waitFor, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { act } from 'react'
import { afterEach, describe, expect, test } from 'vitest'
import { type Asked, server } from '../../tests/network'
import { draw } from '../../tests/page'
import type { Account, Here } from '../api/people'
import { PeoplePage } from './PeoplePage'
import { SignInPage, Who, WhoAsked } from './Who'
import { who } from './who'

const ANA = { id: 1, name: 'Ana', role: 'technician' as const }
const HERE: Here = { way: 'pick', me: ANA, people: [ANA, { id: 2, name: 'Beppo', role: 'reader' }], by_password: false, idle_minutes: 240 } as unknown as Here // prettier-ignore
const ACCOUNTS = [
  { id: 1, name: 'Ana', role: 'technician', open: true, password: false, seen: null },
  { id: 3, name: 'Chiara', role: 'foreman', open: true, password: true, seen: '2026-12-01T08:00:00Z' },
  { id: 4, name: 'Dario', role: 'technician', open: false, password: false, seen: null },
] as unknown as Account[]

const sent = (asked: Asked[]) => asked.filter((item) => item.method !== 'GET').map(({ method, path, body }) => [method, path, body]) // prettier-ignore

afterEach(() => act(who.done))

/** The dialog of names, asked for. */
function asking(here: Here = HERE) {
  const page = draw(<WhoAsked />)
  act(() => {
    page.queries.setQueryData(['here'], here)
    who.ask()
  })
  return page
}

describe('who works with a page', () => {
  test('is said in the corner, and that who only reads changes nothing', () => {
    draw(<Who />, 'reader')
    expect(screen.getByRole('button').textContent).toBe('Anareads only')
  })

  test('at a bench a name is one touch', async () => {
    const asked = server(() => ({ body: { ...HERE, me: HERE.people[1] } }))
    asking()
    await userEvent.click(await screen.findByRole('button', { name: 'Beppo' }))
    await waitFor(() => expect(sent(asked)[0]).toEqual(['POST', '/api/people/pick', { person: 2 }]))
    await waitFor(() => expect(who.asked()).toBe(false))
  })

  test('a new name is taken without its blanks, and nothing is added for none', async () => {
    const asked = server(() => ({ body: HERE }))
    asking()
    const field = await screen.findByRole('textbox', { name: 'Another name' })
    await userEvent.type(field, '   {Enter}')
    expect(asked).toEqual([])
    await userEvent.type(field, ' Emil {Enter}')
    await waitFor(() => expect(sent(asked)[0]).toEqual(['POST', '/api/people/new', { name: 'Emil' }]))
  })

  test('who signs out takes what they saw off this device', async () => {
    server(() => ({ body: { ...HERE, way: 'sign-in', me: null } }))
    const { queries } = asking({ ...HERE, way: 'sign-in' })
    queries.setQueryData(['job', 7], { id: 7 })
    await userEvent.click(await screen.findByRole('button', { name: 'Sign out' }))
    await waitFor(() => expect(queries.getQueryData(['job', 7])).toBeUndefined())
  })

  test('nobody signs in without a name and a password', async () => {
    const asked = server(() => ({ body: HERE }))
    draw(<SignInPage />)
    await userEvent.click(screen.getByRole('button', { name: 'Sign in' }))
    expect(await screen.findByText('Type your name.')).toBeTruthy()
    expect(asked).toEqual([])
    await userEvent.type(screen.getByLabelText('Name'), 'Chiara')
    await userEvent.type(screen.getByLabelText('Password'), 'a long password')
    await userEvent.click(screen.getByRole('button', { name: 'Sign in' }))
    await waitFor(() => expect(sent(asked)[0]).toEqual(['POST', '/api/people/sign-in', { name: 'Chiara', password: 'a long password' }])) // prettier-ignore
  })
})

describe('the accounts', () => {
  function accounts(): Asked[] {
    return server(() => ({ body: ACCOUNTS }))
  }

  const row = async (name: string) => (await screen.findByText(name, { selector: 'td *' })).closest('tr') as HTMLElement

  test('a shut one is opened again, and an open one is shut after a word', async () => {
    const asked = accounts()
    draw(<PeoplePage />, 'foreman')
    await userEvent.click(within(await row('Dario, left')).getByRole('button', { name: 'Open again' }))
    await waitFor(() =>
      expect(sent(asked)).toEqual([['PATCH', '/api/people/accounts/4', { role: null, open: true, password: null }]]),
    )
    await userEvent.click(within(await row('Ana')).getByRole('button', { name: 'Shut' }))
    expect(sent(asked)).toHaveLength(1)
    await userEvent.click(await screen.findByRole('button', { name: 'Shut the account' }))
    await waitFor(() =>
      expect(sent(asked)[1]).toEqual(['PATCH', '/api/people/accounts/1', { role: null, open: false, password: null }]),
    )
  })

  test('only a foreman has a password at a bench', async () => {
    accounts()
    draw(<PeoplePage />, 'foreman')
    expect(within(await row('Chiara')).getByRole('button', { name: 'New password' })).toBeTruthy()
    expect(within(await row('Ana')).queryByRole('button', { name: 'Give a password' })).toBeNull()
  })

  test('a picked foreman’s name is asked for its password first', async () => {
    const asked = server(({ method }) => (method === 'GET' ? { status: 403, body: { message: 'no' } } : { body: HERE }))
    draw(<PeoplePage />, 'foreman')
    await userEvent.type(await screen.findByLabelText('Password of Ana'), 'a long password')
    await userEvent.click(screen.getByRole('button', { name: 'Open the accounts' }))
    await waitFor(() => expect(sent(asked)[0]).toEqual(['POST', '/api/people/sign-in', { name: 'Ana', password: 'a long password' }])) // prettier-ignore
  })

  test('someone new has a name and a role', async () => {
    const asked = accounts()
    draw(<PeoplePage />, 'foreman')
    await userEvent.type(await screen.findByLabelText('Name'), 'Emil')
    await userEvent.click(screen.getByRole('button', { name: 'Add' }))
    await waitFor(() => expect(sent(asked)[0]).toEqual(['POST', '/api/people/accounts', { name: 'Emil', role: 'technician', password: null }])) // prettier-ignore
  })
})
