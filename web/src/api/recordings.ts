import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { who } from '../people/who'
import { answered, client, Refused, type Schemas } from './client'

export type RecordingsPage = Schemas['RecordingsPage']
export type RecordingView = Schemas['RecordingView']
export type SamplesView = Schemas['SamplesView']
export type TraceView = Schemas['TraceView']
export type FigureView = Schemas['FigureView']
export type EventView = Schemas['EventView']
export type ImportView = Schemas['ImportView']
export type ChosenColumn = Schemas['ChosenColumn']
export type Mark = Schemas['Mark']
export type MarkChoice = Schemas['MarkChoice']
export type ExpectedSignal = Schemas['ExpectedSignal']
export type CaptureView = Schemas['CaptureView']

/** Milliseconds between two looks at a file that is being read. */
const EVERY_MS = 120
const pageKey = (id: number) => ['recordings', id] as const

export function useRecordings(id: number) {
  return useQuery({
    queryKey: pageKey(id),
    queryFn: () =>
      answered<RecordingsPage>(client.GET('/api/jobs/{number}/recordings', { params: { path: { number: id } } })),
  })
}

/** A file on its way, looked at until it is ready or refused. */
export function useImport(id: number, name: string | null) {
  return useQuery({
    queryKey: ['import', id, name],
    queryFn: () =>
      answered<ImportView>(
        client.GET('/api/jobs/{number}/imports/{name}', { params: { path: { number: id, name: name ?? '' } } }),
      ),
    enabled: name !== null,
    gcTime: 0,
    staleTime: 0,
    retry: false,
    refetchInterval: (query) => (isUnderWay(query.state.data) ? EVERY_MS : false),
  })
}

export const isUnderWay = (made: ImportView | undefined) =>
  made !== undefined && made.state !== 'ready' && made.state !== 'refused'

/** What a healthy circuit shows of a recording's signals. */
export function useExpected(id: number, shown: SamplesView) {
  const want = shown.traces.map((trace) => (trace.of ? `${trace.signal}:${trace.of}` : trace.signal))
  const asked = [...new Set(want)].filter((item) => !/^(volts|amps)/.test(item)).slice(0, 60)
  return useQuery({
    queryKey: ['expected', id, ...asked],
    enabled: asked.length > 0,
    staleTime: 60_000,
    queryFn: () =>
      answered<ExpectedSignal[]>(
        client.GET('/api/jobs/{number}/expected', { params: { path: { number: id }, query: { want: asked } } }),
      ),
  })
}

/** What is expected of a trace; none where the model says nothing of it. */
export const expectedOf = (trace: TraceView, expected: readonly ExpectedSignal[]) =>
  expected.find((item) => item.signal === trace.signal && item.of === trace.of)

export function useChooseColumns(id: number) {
  const queries = useQueryClient()
  return useMutation({
    mutationFn: ({ name, chosen }: { name: string; chosen: ChosenColumn[] }) =>
      answered<ImportView>(
        client.PUT('/api/jobs/{number}/imports/{name}', { params: { path: { number: id, name } }, body: chosen }),
        'writing',
      ),
    onSuccess: (made) => queries.setQueryData(['import', id, made.id], made),
  })
}

export function useCapture(id: number) {
  return useMutation({
    mutationFn: (capture: string) =>
      answered<ImportView>(
        client.POST('/api/jobs/{number}/captures', { params: { path: { number: id } }, body: { capture } }),
        'writing',
      ),
  })
}

export function useKeep(id: number) {
  const queries = useQueryClient()
  return useMutation({
    mutationFn: ({ name, title, marks }: { name: string; title: string; marks: Mark[] }) =>
      answered<RecordingsPage>(
        client.POST('/api/jobs/{number}/imports/{name}/keep', {
          params: { path: { number: id, name } },
          body: { title, marks },
        }),
        'writing',
      ),
    onSuccess: (page) => {
      queries.setQueryData(pageKey(id), page)
      void queries.invalidateQueries({ queryKey: ['job', id] })
    },
  })
}

export function useMarks(id: number) {
  const queries = useQueryClient()
  return useMutation({
    scope: { id: `marks-${id}` },
    mutationFn: ({ digest, marks }: { digest: string; marks: Mark[] }) =>
      answered<RecordingsPage>(
        client.PUT('/api/jobs/{number}/recordings/{digest}/marks', {
          params: { path: { number: id, digest } },
          body: { marks },
        }),
        'writing',
      ),
    onSuccess: (page) => queries.setQueryData(pageKey(id), page),
  })
}

export function giveUp(id: number, name: string): void {
  void client.DELETE('/api/jobs/{number}/imports/{name}', { params: { path: { number: id, name } } })
}

/** Send a file. told: how much of it has gone, 0 to 1. What is returned besides the answer stops it. */
export function sendFile(
  id: number,
  file: Blob,
  told: (share: number) => void,
): { answer: Promise<ImportView>; stop: () => void } {
  const request = new XMLHttpRequest()
  const answer = new Promise<ImportView>((resolve, reject) => {
    request.open('POST', `/api/jobs/${id}/imports`)
    request.setRequestHeader('Content-Type', 'application/octet-stream')
    const token = /(?:^|; )csrftoken=([^;]+)/.exec(document.cookie)?.[1]
    if (token) request.setRequestHeader('X-CSRFToken', token)
    request.upload.onprogress = (event) => event.lengthComputable && told(event.loaded / event.total)
    request.onload = () => {
      const body = read(request.responseText)
      if (request.status === 401) who.ask()
      if (request.status === 201) resolve(body as ImportView)
      else reject(refusedBy(body, request.status))
    }
    request.onerror = () => reject(new Refused({ message: NOT_SENT, findings: [] }))
    request.onabort = () => reject(new Refused({ message: 'Stopped. Nothing of it was kept.', findings: [] }))
    request.send(file)
  })
  return { answer, stop: () => request.abort() }
}

const NOT_SENT =
  'The file did not arrive: the server does not answer, or the file is too large. Nothing of it was kept.'

function read(text: string): unknown {
  try {
    return JSON.parse(text)
  } catch {
    return undefined
  }
}

function refusedBy(body: unknown, status: number): Refused {
  const problem = (body ?? {}) as Partial<Schemas['Problem']>
  return new Refused(
    { message: problem.message ?? `The server answered ${status}.`, findings: problem.findings ?? [] },
    status,
  )
}

/** Where the samples of something come from: a kept recording, or a file that would be kept. */
export const keptSamples = (id: number, digest: string) => `/api/jobs/${id}/recordings/${encodeURIComponent(digest)}`
export const importSamples = (id: number, name: string) => `/api/jobs/${id}/imports/${name}`

export interface Levels {
  at: Float32Array
  lowest: Float32Array
  highest: Float32Array
}

/** A stretch of a trace as few points: the lowest and highest of each of many spans. */
export async function levelsOf(
  base: string,
  trace: number,
  from: number,
  to: number,
  points: number,
  signal: AbortSignal,
): Promise<Levels> {
  const asked = new URLSearchParams({
    trace: String(trace),
    from_s: String(from),
    to_s: String(to),
    points: String(points),
  })
  const response = await fetch(`${base}/levels?${asked.toString()}`, { signal })
  if (!response.ok) throw new Refused({ message: 'The samples could not be fetched. Try again.', findings: [] })
  const numbers = new Float32Array(await response.arrayBuffer())
  const count = numbers.length / 3
  return {
    at: numbers.subarray(0, count),
    lowest: numbers.subarray(count, 2 * count),
    highest: numbers.subarray(2 * count),
  }
}
