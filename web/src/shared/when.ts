const SHORT = new Intl.DateTimeFormat([], {
  day: 'numeric',
  month: 'short',
  hour: '2-digit',
  minute: '2-digit',
  hour12: false,
})

/** A time as short as it can be said. */
export const when = (time: Date | string) => SHORT.format(new Date(time))
