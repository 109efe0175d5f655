/** docs/guide.md as HTML, made when the front end is built: its headings can be linked to, its pictures are files of the build. */
import { readFileSync } from 'node:fs'
import { dirname, resolve } from 'node:path'
import { Marked } from 'marked'
import type { Plugin } from 'vite'

export const slugOf = (title: string) =>
  title
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-|-$/g, '')

export function guide(): Plugin {
  return {
    name: 'guide',
    load(id) {
      if (!id.endsWith('/guide.md')) return null
      const pictures: string[] = []
      const contents: { id: string; title: string; depth: number }[] = []
      const marked = new Marked({
        renderer: {
          heading({ tokens, depth, text }) {
            const place = slugOf(text)
            if (depth > 1) contents.push({ id: place, title: text, depth })
            return `<h${depth} id="${place}">${this.parser.parseInline(tokens)}</h${depth}>\n`
          },
          image({ href, text }) {
            pictures.push(resolve(dirname(id), href))
            return `<img src="PICTURE${pictures.length - 1}PICTURE" alt="${text}" loading="lazy">`
          },
        },
      })
      const html = marked.parse(readFileSync(id, 'utf8'), { async: false })
      const imports = pictures.map((path, place) => `import picture${place} from ${JSON.stringify(path)}`)
      const put = pictures.map((_, place) => `.replace('PICTURE${place}PICTURE', picture${place})`)
      const code = [
        ...imports,
        `export const contents = ${JSON.stringify(contents)}`,
        `export const html = ${JSON.stringify(html)}${put.join('')}`,
      ]
      this.addWatchFile(id)
      return { code: code.join('\n'), moduleType: 'js' }
    },
  }
}
