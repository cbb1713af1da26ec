import "@fontsource-variable/atkinson-hyperlegible-next";
import "antd/dist/reset.css";
import "./app/app.css";

import { StrictMode } from "react";
import { createRoot } from "react-dom/client";

import { App } from "./app/App";
import { nameOwnStyles } from "./app/nonce";
import { keepForTheBench } from "./app/offline";

nameOwnStyles();
const root = document.getElementById("root");
if (!root) throw new Error("The page has no root element.");
createRoot(root).render(
  <StrictMode>
    <App />
  </StrictMode>,
);
keepForTheBench();
