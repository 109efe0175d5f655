import { Button, Progress, Upload } from 'antd'
import { useEffect, useEffectEvent, useRef, useState } from 'react'
import { sendFile } from '../api/recordings'
import { Problem } from '../shared/Problem'

interface DropProps {
  id: number
  onArrived: (name: string) => void
}

/** Where a file is dropped, chosen or pasted; how much of it has gone, and a way to stop. */
export function Drop({ id, onArrived }: DropProps) {
  const [share, setShare] = useState<number | null>(null)
  const [error, setError] = useState<Error | null>(null)
  const stop = useRef<() => void>(() => undefined)
  const send = (file: Blob) => {
    setError(null)
    setShare(0)
    const sent = sendFile(id, file, setShare)
    stop.current = sent.stop
    sent.answer
      .then((made) => onArrived(made.id))
      .catch((problem: unknown) => setError(problem as Error))
      .finally(() => setShare(null))
  }
  usePasted(send)
  return (
    <div className="drop">
      <Upload.Dragger
        accept=".csv,.txt,.tsv,.log,.mf4,.mdf,.parquet"
        showUploadList={false}
        disabled={share !== null}
        beforeUpload={(file) => {
          send(file)
          return false
        }}
      >
        <p>
          <strong>Drop a recording here</strong>, choose it, or paste its rows.
        </p>
        <p className="muted">
          CSV or MDF 4 of a scan tool or a scope, up to 100 MB. Only the signals you keep are stored.
        </p>
      </Upload.Dragger>
      {share !== null && (
        <div role="status">
          <Progress percent={Math.round(100 * share)} />
          <Button onClick={() => stop.current()}>Stop</Button>
        </div>
      )}
      {error && <Problem error={error} />}
    </div>
  )
}

/** Rows that are pasted anywhere but into a field are a file, too. */
function usePasted(send: (file: Blob) => void): void {
  const pasted = useEffectEvent((event: ClipboardEvent) => {
    if (event.target instanceof Element && event.target.closest('input, textarea')) return
    const file = event.clipboardData?.files[0]
    const text = event.clipboardData?.getData('text/plain') ?? ''
    if (file) send(file)
    else if (text.includes('\n')) send(new Blob([text], { type: 'text/csv' }))
  })
  useEffect(() => {
    const listener = (event: ClipboardEvent) => pasted(event)
    document.addEventListener('paste', listener)
    return () => document.removeEventListener('paste', listener)
  }, [])
}
