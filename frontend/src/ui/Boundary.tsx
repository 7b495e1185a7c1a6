import { Component, type ErrorInfo, type ReactNode } from "react";
import { say } from "../texts/say";
import { Button } from "./parts";

type BoundaryProps = {
  /** What could not be drawn, in the middle of a sentence. */
  what: string;
  /** Another value tries again by itself. */
  of?: string;
  /** What is said in its place, where hands cannot wait. */
  instead?: ReactNode;
  children: ReactNode;
};
type BoundaryState = { fault: Error | null; of: string | undefined };

/** A fault of drawing stays where it is: clock, keys and outbox outside of it run on. */
export class Boundary extends Component<BoundaryProps, BoundaryState> {
  override state: BoundaryState = { fault: null, of: this.props.of };

  static getDerivedStateFromError(fault: Error): Partial<BoundaryState> {
    return { fault };
  }

  static getDerivedStateFromProps(props: BoundaryProps, state: BoundaryState): Partial<BoundaryState> | null {
    return props.of === state.of ? null : { fault: null, of: props.of };
  }

  override componentDidCatch(fault: Error, info: ErrorInfo) {
    // For whoever looks after Offsetter: the browser keeps it in its own log.
    console.error(say("drawing {what}", { what: this.props.what }), fault, info.componentStack);
  }

  override render() {
    if (!this.state.fault) return this.props.children;
    return (
      <section role="alert" className="m-auto max-w-md p-6 text-center">
        {this.props.instead}
        <p className="font-semibold">{say("{what} cannot be drawn.", { what: this.props.what })}</p>
        <p className="mt-1 text-soft">
          {say(
            "This is a fault inside Offsetter. Everything that was done is kept and still sent; clocks and keys go on.",
          )}
        </p>
        <div className="mt-3">
          <Button onClick={() => this.setState({ fault: null })}>{say("Draw it again")}</Button>
        </div>
      </section>
    );
  }
}
