import { when } from '../shared/when'

/** A moment as it is written on paper; what is none stands as it is. */
export function momentOf(taken: string | null | undefined): string {
  const time = taken ? new Date(taken) : null
  return !time ? '' : Number.isNaN(time.getTime()) ? String(taken) : when(time)
}
