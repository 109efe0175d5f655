import { Popover } from 'antd'

/** A figure that says, when it is touched, where it comes from. */
export function Explained({ children, says }: { children: string; says: string }) {
  return (
    <Popover
      trigger="click"
      placement="bottomLeft"
      getPopupContainer={(figure) => figure.closest('main') ?? document.body}
      content={<span className="asked-says">{says}</span>}
    >
      <button type="button" className="ask figure" aria-label={`${children}: why?`}>
        {children}
      </button>
    </Popover>
  )
}

/** Where an expected range comes from. source: of a published one. */
export function rangeFrom(source: string | null | undefined): string {
  return source
    ? `From ${source}.`
    : 'Worked out: what sound circuits of this kind show here, with their tolerances and with what was read so far.'
}
