/** The line on which a server tells what happens, as a test speaks on it. */
export class Line {
  static opened: Line[] = [];
  onmessage: ((message: MessageEvent<string>) => void) | null = null;

  constructor() {
    Line.opened.push(this);
  }

  close() {
    this.onmessage = null;
  }
}
