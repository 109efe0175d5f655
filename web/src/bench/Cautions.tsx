import { Button } from 'antd'
import { useState } from 'react'
import { keep, kept } from '../shared/browserStore'

/** What can hurt at this step: said in full until understood, then one line that opens again. Kept for the job. */
export function Cautions({ job, lines }: { job: number; lines: string[] }) {
  const key = `understood-${job}`
  const [understood, setUnderstood] = useState<string[]>(() => kept<string[]>(key) ?? [])
  const [open, setOpen] = useState(false)
  const fresh = lines.filter((line) => !understood.includes(line))
  const shown = open ? lines : fresh
  const accept = () => {
    const all = [...new Set([...understood, ...lines])]
    keep(key, all)
    setUnderstood(all)
    setOpen(false)
  }
  if (lines.length === 0) return null
  return (
    <div className="cautions">
      {shown.map((line) => (
        <p key={line} className="caution">
          ⚠ {line}
        </p>
      ))}
      {shown.length > 0 ? (
        <Button onClick={accept}>Understood</Button>
      ) : (
        <Button className="caution-seen" onClick={() => setOpen(true)}>
          ⚠ {lines.length === 1 ? '1 caution' : `${lines.length} cautions`} at this step
        </Button>
      )}
    </div>
  )
}
