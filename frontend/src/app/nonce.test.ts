// @vitest-environment jsdom
import { expect, it } from "vitest";

import { nameOwnStyles } from "./nonce";

function pageOf(head: string): Document {
  const page = document.implementation.createHTMLDocument();
  page.head.innerHTML = head;
  return page;
}

it("gives the number of the page to styles that scripts make, and to nothing else", () => {
  const page = pageOf('<meta property="csp-nonce" nonce="4f2a" />');
  nameOwnStyles(page);
  expect(page.createElement("style").nonce).toBe("4f2a");
  expect(page.createElement("script").nonce).toBe("");
  expect(page.createElement("div").tagName).toBe("DIV");
});

it("leaves a page alone that has no number", () => {
  const page = pageOf("");
  nameOwnStyles(page);
  expect(page.createElement("style").nonce).toBe("");
});
