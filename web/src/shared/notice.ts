import { signal } from './signal'

/** One thing to tell above every page: a part of the front end that could not be loaded. Empty for nothing. */
export const notice = signal('')

export const tell = notice.tell
