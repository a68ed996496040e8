/** An element of an XML document. */
export interface Node {
  name: string;
  attributes: Readonly<Record<string, string>>;
  children: readonly Node[];
}
export const element = (name: string, attributes: Record<string, string>, children: readonly Node[] = []): Node => ({ name, attributes, children });

/** Text as it may stand in an attribute. Characters that XML 1.0 forbids are left out. Source: XML 1.0, 2.2 and 3.3.3. */
const escaped = (text: string): string =>
  text
    .replace(/[\u0000-\u0008\u000b\u000c\u000e-\u001f\ufffe\uffff]/g, '')
    .replace(
      /[&<>"\n\r\t]/g,
      (c) => ({ '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;', '\n': '&#10;', '\r': '&#13;', '\t': '&#9;' })[c] as string,
    );

function lines({ name, attributes, children }: Node, depth: number): string[] {
  const indent = '  '.repeat(depth);
  const open = `${indent}<${name}${Object.entries(attributes)
    .map(([key, value]) => ` ${key}="${escaped(value)}"`)
    .join('')}`;
  return children.length ? [`${open}>`, ...children.flatMap((c) => lines(c, depth + 1)), `${indent}</${name}>`] : [`${open} />`];
}
export const xmlText = (root: Node): string => `<?xml version="1.0" encoding="UTF-8"?>\n${lines(root, 0).join('\n')}\n`;
