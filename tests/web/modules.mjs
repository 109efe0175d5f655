// Calls functions of the front end's own modules: one call a line on standard input, one answer a line on standard output.
import { createRequire } from 'node:module'
import { createInterface } from 'node:readline'
import { pathToFileURL } from 'node:url'

const vite = createRequire(`${process.cwd()}/package.json`).resolve('vite')
const { createServer } = await import(pathToFileURL(vite).href)
const server = await createServer({ server: { middlewareMode: true, ws: false, watch: null }, logLevel: 'error', appType: 'custom' })

for await (const line of createInterface({ input: process.stdin })) {
  const { module, name, args } = JSON.parse(line)
  let answer
  try {
    const found = (await server.ssrLoadModule(module))[name]
    answer = { value: (typeof found === 'function' ? found(...args) : found) ?? null }
  } catch (problem) {
    answer = { problem: String(problem) }
  }
  process.stdout.write(`${JSON.stringify(answer)}\n`)
}
await server.close()
process.exit(0)
