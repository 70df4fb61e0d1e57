import { Component, type ErrorInfo, type ReactNode } from "react";
import { Trouble } from "./Trouble";

type Props = {
  /** What is shown: something else is tried anew. */
  at?: string;
  /** Told of what could not be drawn, and of the parts that it happened in. */
  onFailure?: (error: unknown, parts: string) => void;
  children: ReactNode;
};

/** Where a screen fails to draw itself, says so in its place, with a way on; what stands around it stays. */
export class Boundary extends Component<Props, { failed: boolean }> {
  override state = { failed: false };

  static getDerivedStateFromError() {
    return { failed: true };
  }

  override componentDidCatch(error: unknown, info: ErrorInfo) {
    this.props.onFailure?.(error, info.componentStack ?? "");
  }

  override componentDidUpdate(before: Props) {
    if (this.state.failed && before.at !== this.props.at) this.setState({ failed: false });
  }

  override render() {
    if (!this.state.failed) return this.props.children;
    // Loading anew brings the program's latest scripts along, too.
    return (
      <Trouble
        error={new Error("This screen couldn’t be shown. Everything you saved is safe; reload the page.")}
        retry={() => window.location.reload()}
      />
    );
  }
}
