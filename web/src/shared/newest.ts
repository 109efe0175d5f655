import { type RefObject, useLayoutEffect, useRef } from 'react'

/** The newest value for whatever is called from outside of React. */
export function useNewest<T>(value: T): RefObject<T> {
  const newest = useRef(value)
  useLayoutEffect(() => {
    newest.current = value
  })
  return newest
}
