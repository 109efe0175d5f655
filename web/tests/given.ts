/** Has the core write what the tests are given, unless whoever runs them has written it already. */
import { execFileSync } from 'node:child_process'
import { resolve } from 'node:path'
import type { TestProject } from 'vitest/node'

export default function setup(project: TestProject): void {
  const root = resolve(import.meta.dirname, '../..')
  const folder = process.env['DIANOIA_WEB_TESTS'] ?? resolve(root, 'var/web-tests')
  if (!process.env['DIANOIA_WEB_TESTS'])
    execFileSync(resolve(root, '.venv/bin/python'), ['-m', 'tests.web.fixtures', folder], { cwd: root })
  project.provide('folder', folder)
}

declare module 'vitest' {
  export interface ProvidedContext {
    folder: string
  }
}
