// The server allows only styles that carry this page's nonce. The style
// libraries look for it under this name when they make their first element, so
// this module is imported before them.
const nonce = document.querySelector<HTMLMetaElement>('meta[property="csp-nonce"]')?.nonce ?? "";
(globalThis as { __webpack_nonce__?: string }).__webpack_nonce__ = nonce;

export {};
