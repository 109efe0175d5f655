import { Button } from 'antd'
import { Component, type ReactNode } from 'react'

interface Props {
  /** What cannot be shown, as the page calls it. */
  what: string
  /** Shown anew when this changes. */
  at?: unknown
  children: ReactNode
}

/** A part that fails leaves the rest of the page as it is, and says so. */
export class Boundary extends Component<Props, { error: Error | null }> {
  override state = { error: null as Error | null }

  static getDerivedStateFromError(error: Error) {
    return { error }
  }

  override componentDidUpdate(before: Props) {
    if (this.state.error && before.at !== this.props.at) this.setState({ error: null })
  }

  override render() {
    const { error } = this.state
    if (!error) return this.props.children
    return (
      <div role="alert" className="problem broken-part">
        <p>
          <strong>{this.props.what} cannot be shown.</strong> What was saved is safe.
        </p>
        <p className="muted">{error.message}</p>
        <Button onClick={() => this.setState({ error: null })}>Try again</Button>
      </div>
    )
  }
}
