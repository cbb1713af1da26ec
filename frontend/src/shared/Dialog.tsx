import { useId, useLayoutEffect, useRef, type ReactNode } from "react";
import { createPortal } from "react-dom";

interface Properties {
  title: string;
  open: boolean;
  onClose: () => void;
  /** Along the right edge, for what is read beside the page; else in the middle. */
  side?: boolean;
  /** How wide it may become. [px] */
  width?: number;
  /** A question waits for its answer before anything else. */
  role?: "dialog" | "alertdialog";
  children: ReactNode;
}

/** The browser's own dialog: it keeps the focus, closes by Escape, and gives the focus back. */
export function Dialog(properties: Properties) {
  return properties.open ? <OpenDialog {...properties} /> : null;
}

function OpenDialog({ title, onClose, side, width = 520, role, children }: Properties) {
  const box = useRef<HTMLDialogElement>(null);
  const heading = useId();

  // Closed before it is gone, so that the focus finds its way back.
  useLayoutEffect(() => {
    const shown = box.current;
    shown?.showModal();
    return () => shown?.close();
  }, []);

  return createPortal(
    <dialog
      ref={box}
      role={role}
      className={side ? "dialog side" : "dialog"}
      style={{ width }}
      aria-labelledby={heading}
      onCancel={(event) => {
        event.preventDefault();
        onClose();
      }}
      // A press beside it closes it, as Escape does.
      onMouseDown={(event) => event.target === box.current && onClose()}
    >
      <div className="dialog-inside">
        <header>
          <h2 id={heading}>{title}</h2>
          {role !== "alertdialog" && (
            <button type="button" className="dialog-close" aria-label="Close" onClick={onClose}>
              ×
            </button>
          )}
        </header>
        {children}
      </div>
    </dialog>,
    document.body,
  );
}
