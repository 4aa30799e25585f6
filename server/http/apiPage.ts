import { routes, type Route } from '@shale/contract';

const escape = (text: string) => text.replace(/[&<>"]/g, (sign) => `&#${sign.charCodeAt(0)};`);

/** The API for reading: every operation in a line, with the document behind it. */
export function apiPage(nonce: string): string {
  const rows = (Object.entries(routes) as [string, Route][])
    .map(
      ([name, { method, path, summary }]) =>
        `<tr><td>${method.toUpperCase()}</td><td><code>/api${escape(path)}</code></td><td>${escape(summary)}</td><td>${name}</td></tr>`,
    )
    .join('');
  return `<!doctype html><html lang="en"><meta charset="utf-8"><title>Shale API</title>
<style nonce="${nonce}">body{font:16px/1.5 sans-serif;margin:2rem auto;max-width:70rem;padding:0 1rem;color:#20262a;background:#f4f2ec}table{border-collapse:collapse;width:100%}td,th{text-align:left;padding:.35rem .8rem;border-bottom:1px solid #ddd8cc}</style>
<h1>Shale API</h1><p>The whole description, with every field: <a href="/api/openapi.json">/api/openapi.json</a> (OpenAPI 3.1). Errors are RFC 9457 problem details with a stable <code>code</code>, the fact and the way out.</p>
<table><thead><tr><th>Method</th><th>Path</th><th>What it does</th><th>Operation</th></tr></thead><tbody>${rows}</tbody></table></html>`;
}
