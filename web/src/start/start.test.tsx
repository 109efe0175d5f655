import { screen, waitFor } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { expect, test } from 'vitest'
import { viewOf } from '../../tests/fixtures'
import { type Asked, server } from '../../tests/network'
import { draw } from '../../tests/page'
import type { JobSummary } from '../api/client'
import { Jobs } from './Jobs'
import { NewJob } from './NewJob'

const BUS = { label: 'School bus 4', system_voltage: 24 }
const KNOWN = { vehicle: BUS, sensor: { family: 'switching-4w', heater_ohms_20c: [5, 7] }, codes: ['P0141'], job: 3 }

function bench(codes: object[] = []): Asked[] {
  return server(({ path, method }) => {
    if (path === '/api/vehicles') return { body: [KNOWN] }
    if (path === '/api/codes') return { body: codes }
    return method === 'POST' ? { status: 201, body: viewOf('new') } : { body: {} }
  })
}

const posted = (asked: Asked[]) => asked.find((item) => item.method === 'POST')?.body
const code = () => screen.getByRole('textbox', { name: /Type the code/ })

test('a vehicle seen before brings its layout and its sensor’s figures; a sensor chosen by hand wins', async () => {
  const asked = bench()
  draw(<NewJob />)
  await userEvent.type(code(), 'P0141')
  await userEvent.type(screen.getByRole('combobox', { name: 'Vehicle' }), 'School bus 4')
  await waitFor(() => expect(asked.some((item) => item.path === '/api/vehicles')).toBe(true))
  await userEvent.click(screen.getByRole('button', { name: 'Start the job' }))
  await waitFor(() => expect(posted(asked)).toMatchObject({ codes: 'P0141', vehicle: BUS, sensor: { ...KNOWN.sensor, bank: null, position: null } })) // prettier-ignore
})

test('a vehicle that is not named is said to be so', async () => {
  const asked = bench()
  draw(<NewJob />)
  await userEvent.type(code(), 'P0135{Enter}')
  await waitFor(() => expect(posted(asked)).toMatchObject({ vehicle: { label: 'Vehicle not named yet' } }))
  expect(posted(asked)).not.toHaveProperty('sensor')
})

test('what the code says stands there before the job is started', async () => {
  bench([{ code: 'P0141', title: 'Heater circuit', explains: 'The module saw it.', bank: 1, position: 2, sensors: [], kind: 'oxygen' }]) // prettier-ignore
  draw(<NewJob />)
  await userEvent.type(code(), 'P0141')
  const said = await screen.findByRole('list', { name: 'What the code says' })
  expect(said.textContent).toContain('Bank 1 · sensor 2')
})

const LINE: JobSummary = { id: 7, title: 'Came on at the pass', vehicle: 'Road crew van 3', codes: ['P0031'], where: 'Bank 1 · sensor 1', stage: 'testing', decision: 'keep-testing', decided: 'Keep testing', says: '', confidence: 0.4, waits_for: 'Volts at the plug', readings: 2, repair: 'none', early: false, returns: 0, updated: '2026-12-01T08:00:00Z', archived: false, simulated: false } // prettier-ignore

test('the list says what each job waits for, and is searched as one types', async () => {
  const asked = server(() => ({ body: { jobs: [LINE], total: 1, counts: { all: 1, testing: 1 } } }))
  draw(<Jobs />)
  expect(await screen.findByText('Volts at the plug')).toBeTruthy()
  await userEvent.click(screen.getByRole('button', { name: 'Road crew van 3' }))
  await waitFor(() => expect(asked.length).toBeGreaterThan(1))
  expect(screen.getByRole<HTMLInputElement>('searchbox', { name: 'Find a job' }).value).toBe('Road crew van 3')
})

test.each([
  [{}, 'No jobs yet. Type the code that the scan tool shows, name the vehicle, and start.'],
  [{ all: 3 }, 'No job like this.'],
])('an empty list says why: %o', async (counts, says) => {
  server(() => ({ body: { jobs: [], total: 0, counts } }))
  draw(<Jobs />)
  expect(await screen.findByText(says)).toBeTruthy()
})

test('a job is put away by a touch; who only reads finds no such button', async () => {
  const asked = server(() => ({ body: { jobs: [LINE], total: 1, counts: { all: 1 } } }))
  const page = draw(<Jobs />)
  await userEvent.click(await screen.findByRole('button', { name: 'Put away' }))
  await waitFor(() => expect(asked.find((item) => item.method === 'POST')).toMatchObject({ path: '/api/jobs/7/archive', body: { archived: true } })) // prettier-ignore
  page.unmount()
  draw(<Jobs />, 'reader')
  await screen.findByText('Volts at the plug')
  expect(screen.queryByRole('button', { name: 'Put away' })).toBeNull()
})
