/// <reference types="vite/client" />
/// <reference types="vite-plugin-pwa/client" />
/** Short hash of the API's description that this front end was built for. */
declare const __API_VERSION__: string

declare module '*/guide.md' {
  export const html: string
  export const contents: { id: string; title: string; depth: number }[]
}
