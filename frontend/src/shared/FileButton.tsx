import { Button } from "antd";
import { useRef, useState, type ReactNode, type Ref } from "react";

interface Properties {
  accept: string;
  onFile: (file: File) => void;
  /** It is being sent, or read. */
  busy?: boolean;
  children: ReactNode;
}

/** A button that asks for a file. */
export function FileButton({ accept, onFile, busy = false, children }: Properties) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <FileInput accept={accept} onFile={onFile} input={input} />
      <Button loading={busy} onClick={() => input.current?.click()}>
        {children}
      </Button>
    </>
  );
}

/** A place that a file is dropped on, or that asks for one when it is pressed. */
export function FileDrop({ accept, onFile, busy = false, children }: Properties) {
  const input = useRef<HTMLInputElement>(null);
  const [over, setOver] = useState(false);
  return (
    <>
      <FileInput accept={accept} onFile={onFile} input={input} />
      <button
        type="button"
        className="file-drop"
        data-over={over || undefined}
        disabled={busy}
        onClick={() => input.current?.click()}
        onDragOver={(event) => {
          event.preventDefault();
          setOver(true);
        }}
        onDragLeave={() => setOver(false)}
        onDrop={(event) => {
          event.preventDefault();
          setOver(false);
          const [file] = event.dataTransfer.files;
          if (file) onFile(file);
        }}
      >
        {children}
      </button>
    </>
  );
}

interface InputProperties {
  accept: string;
  onFile: (file: File) => void;
  input: Ref<HTMLInputElement>;
}

function FileInput({ accept, onFile, input }: InputProperties) {
  return (
    <input
      ref={input}
      type="file"
      hidden
      accept={accept}
      onChange={(event) => {
        const [file] = event.target.files ?? [];
        // The same file may be chosen again, mended.
        event.target.value = "";
        if (file) onFile(file);
      }}
    />
  );
}
