import { Component, type ReactNode } from "react";

/**
 * Stands in for a screen that failed, in its own place: what is around it, the energy band above all, stays. What failed stands in the
 * console.
 */
export class Failed extends Component<{ children: ReactNode }, { failed: boolean }> {
  state = { failed: false };

  static getDerivedStateFromError() {
    return { failed: true };
  }

  render() {
    if (!this.state.failed) return this.props.children;
    return (
      <div role="alert" className="m-5 max-w-[70ch] self-start border-2 border-stop bg-stop-0 p-4">
        <p className="pb-2 font-semibold">This screen failed, and shows nothing. What was typed is kept; the other screens work.</p>
        <button className="ghost" onClick={() => this.setState({ failed: false })}>
          Try again
        </button>
      </div>
    );
  }
}
