import { Component, type ReactNode } from "react";

/** Stands in for a screen that failed, in its own place: what is around it, the energy band above all, stays. */
export class Failed extends Component<{ children: ReactNode }, { error?: Error }> {
  state: { error?: Error } = {};

  static getDerivedStateFromError(error: Error) {
    return { error };
  }

  render() {
    if (!this.state.error) return this.props.children;
    return (
      <div role="alert" className="m-5 max-w-[70ch] self-start border-2 border-stop bg-stop-0 p-4">
        <p className="font-semibold">This screen failed, and shows nothing. What was typed is kept; the other screens work.</p>
        <p className="py-2 text-ink-2">{this.state.error.message}</p>
        <button className="ghost" onClick={() => this.setState({ error: undefined })}>
          Try again
        </button>
      </div>
    );
  }
}
