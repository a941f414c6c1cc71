import { Component, type ReactNode } from "react";

/** A part of the page: a fault in it is said in its place, and takes nothing else along; the browser's console has its trace. */
export class Bounded extends Component<{ what: string; children: ReactNode }, { fault: boolean }> {
  state = { fault: false };
  static getDerivedStateFromError = () => ({ fault: true });
  render() {
    if (!this.state.fault) return this.props.children;
    return (
      <div role="alert" className="p-4">
        <p>{this.props.what} cannot be shown: a fault of ours. What you did is kept, and the rest goes on.</p>
        <button type="button" className="line-act mt-3 text-xs" onClick={() => this.setState({ fault: false })}>
          Show it again
        </button>
      </div>
    );
  }
}
