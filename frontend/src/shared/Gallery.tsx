import { Select } from "antd";
import type { ReactNode } from "react";
import { Link } from "react-router";

import type { ListOrder } from "./paging";
import { Drawing } from "./Drawing";
import { SearchField } from "./SearchField";

interface CardProperties {
  picture: string;
  name: string;
  to: string;
  /** The figure that one looks for first. */
  figure: ReactNode;
  children: ReactNode;
}

/** One thing of a list: its picture, its name, what one looks for first, and the rest. */
export function GalleryCard({ picture, name, to, figure, children }: CardProperties) {
  return (
    <li className="gallery-card">
      <Drawing picture={picture} />
      <div>
        <h2>
          <Link className="row-name" to={to}>
            {name}
          </Link>
        </h2>
        <p className="gallery-figure">{figure}</p>
        {children}
      </div>
    </li>
  );
}

const ORDERS: { value: ListOrder; label: string }[] = [
  { value: "newest", label: "Newest first" },
  { value: "name", label: "By name" },
];

interface ToolsProperties {
  search: string;
  onSearch: (search: string) => void;
  searched: string;
  order: ListOrder;
  onOrder: (order: ListOrder) => void;
  shown: number;
  total: number;
}

/** What a list is searched and ordered by. */
export function GalleryTools(properties: ToolsProperties) {
  const { search, onSearch, searched, order, onOrder, shown, total } = properties;
  return (
    <div className="shelf-tools">
      <SearchField
        label={searched}
        value={search}
        onChange={onSearch}
        shown={shown}
        total={total}
      />
      <Select aria-label="Order" value={order} onChange={onOrder} options={ORDERS} />
    </div>
  );
}
