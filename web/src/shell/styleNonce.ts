/**
 * The nonce of this page, by which the content policy knows the interface's own styles. The component library measures
 * scroll bars with a style that it gives none; here every style that the interface makes is given the nonce.
 */
export const styleNonce = document.querySelector<HTMLMetaElement>('meta[name="csp-nonce"]')?.content;

export function giveStylesNonce(): void {
  if (!styleNonce) return;
  const create = document.createElement.bind(document);
  document.createElement = ((name: string, options?: ElementCreationOptions) => {
    const element = create(name, options);
    if (element instanceof HTMLStyleElement) element.nonce = styleNonce;
    return element;
  }) as typeof document.createElement;
}
