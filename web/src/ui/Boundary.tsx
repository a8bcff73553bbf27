/** What a fault of ours leaves standing: the rest of the page, the person's work, and a way on. */
import { Component, type ReactNode } from 'react'

interface Props {
  /** What has failed, in words: "the scope", "this page". */
  what: string
  /** When this changes, it is tried anew: another address, another design. */
  of?: unknown
  children: ReactNode
}
interface State {
  error: Error | null
  of: unknown
}

export class Boundary extends Component<Props, State> {
  state: State = { error: null, of: this.props.of }

  static getDerivedStateFromError(error: unknown): Partial<State> {
    return { error: error instanceof Error ? error : new Error(String(error)) }
  }

  static getDerivedStateFromProps(props: Props, state: State): Partial<State> | null {
    return props.of === state.of ? null : { error: null, of: props.of }
  }

  render() {
    const { error } = this.state
    if (!error) return this.props.children
    const gone = notLoaded(error)
    return (
      <div className="wait" role="alert">
        <p>
          <b>
            {gone ? `A part of ${this.props.what} could not be loaded.` : `Rhombos stumbled over ${this.props.what}.`}
          </b>{' '}
          {gone
            ? 'The server was away, or has been renewed since this page was opened.'
            : `${error.message}. That is a fault of ours.`}
        </p>
        <p>What was saved is safe, and what you typed is kept in this browser.</p>
        <p>
          {!gone && (
            <button className="act" onClick={() => this.setState({ error: null })}>
              Try again
            </button>
          )}{' '}
          <button className="act" onClick={() => window.location.reload()}>
            Load the page anew
          </button>{' '}
          <a className="act" href="/">
            To the shelf
          </a>
        </p>
      </div>
    )
  }
}

/** Whether the error is a chunk that did not come: trying again would ask the browser's memory of the failure. */
function notLoaded(error: Error): boolean {
  return /dynamically imported module|module script|preload CSS|error loading/i.test(error.message)
}
