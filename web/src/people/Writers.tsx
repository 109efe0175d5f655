import { ConfigProvider } from 'antd'
import type { ReactNode } from 'react'
import { useHere } from '../api/people'

/** Whether whoever works with this page changes nothing. */
export function useReads(): boolean {
  return useHere().data?.me?.role === 'reader'
}

/** Whether someone has come in who may change something. */
export function useWrites(): boolean {
  const me = useHere().data?.me
  return Boolean(me) && me?.role !== 'reader'
}

/** What is there to change something: it stands still for who only reads. */
export function Writers({ children }: { children: ReactNode }) {
  const reads = useReads()
  if (!reads) return children
  return (
    <ConfigProvider componentDisabled>
      <fieldset disabled className="for-writers" title="You may read here, and change nothing.">
        {children}
      </fieldset>
    </ConfigProvider>
  )
}
