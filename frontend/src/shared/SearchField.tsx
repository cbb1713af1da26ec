import { Input } from "antd";

interface Properties {
  value: string;
  onChange: (value: string) => void;
  shown: number;
  total: number;
  /** What is searched, as one says it. */
  label?: string;
}

/** Looks for words, and says when more is there than is shown. */
export function SearchField({
  value,
  onChange,
  shown,
  total,
  label = "Search by name",
}: Properties) {
  return (
    <span className="inline search">
      <Input
        aria-label={label}
        placeholder={label}
        allowClear
        value={value}
        onChange={(event) => onChange(event.target.value)}
      />
      {shown < total && (
        <span className="faint" role="status">
          {shown} of {total.toLocaleString("en-US")} shown
        </span>
      )}
    </span>
  );
}
