import type { ComponentType } from 'react'
import { tell } from './notice'

/** Pause between two tries, in milliseconds. */
const AGAIN_MS = 2000

/** A page's code, asked for until it comes. Meanwhile the page before stays, and a line above it says what is wrong. */
export async function loaded(load: () => Promise<ComponentType>): Promise<{ Component: ComponentType }> {
  for (;;) {
    try {
      const Component = await load()
      tell('')
      return { Component }
    } catch {
      tell('That page could not be loaded. Is the server still running? It is asked again until it answers.')
      await new Promise((resolve) => window.setTimeout(resolve, AGAIN_MS))
    }
  }
}
