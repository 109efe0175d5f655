import 'fake-indexeddb/auto'
import { cleanup } from '@testing-library/react'
import { afterEach } from 'vitest'
import { learn } from '../src/shared/vocabulary'
import { given } from './fixtures'
import { ask, noServer } from './network'

// before any module of the application takes hold of it
globalThis.fetch = ask

learn(given.vocabulary)
afterEach(() => {
  cleanup()
  noServer()
  localStorage.clear()
})
