import { Input } from "antd";

interface Properties {
  value: string;
  onChange: (value: string) => void;
  shown: number;
  total: number;
}

/** Looks for words in names, and says when more is there than is shown. */
export function SearchField({ value, onChange, shown, total }: Properties) {
  return (
    <span className="inline search">
      <Input
        aria-label="Search by name"
        placeholder="Search by name"
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
