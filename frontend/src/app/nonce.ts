/**
 * Lets what our scripts write as styles be taken for ours.
 *
 * The page's policy refuses every style but those that bear the number of the answer that the page
 * came in. Not every package that writes styles can be told that number.
 */
export function nameOwnStyles(page: Document = document): void {
  const nonce = page.querySelector<HTMLMetaElement>("meta[property=csp-nonce]")?.nonce;
  if (!nonce) return;
  const create = page.createElement.bind(page) as Document["createElement"];
  page.createElement = ((name: string, options?: ElementCreationOptions) => {
    const made = create(name, options);
    if (made instanceof HTMLStyleElement) made.nonce = nonce;
    return made;
  }) as Document["createElement"];
}
