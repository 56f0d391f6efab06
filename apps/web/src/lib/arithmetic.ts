/**
 * Reads typed arithmetic with an optional unit: `12.5`, `4*3+1`, `108 %`, `(3+4)/2 px`. A comma is a decimal point.
 *
 * @returns null when it is not a number
 */
export function evaluate(text: string): number | null {
  const source = text.replace(/,/g, '.').replace(/\s*(px|%|°|deg|s|fps)\s*$/i, '');
  const tokens = source.match(/\d+\.?\d*|\.\d+|[-+*/()]|\S/g) ?? [];
  let at = 0;
  const sum = (): number => {
    let value = product();
    while (tokens[at] === '+' || tokens[at] === '-')
      value = tokens[at++] === '+' ? value + product() : value - product();
    return value;
  };
  const product = (): number => {
    let value = factor();
    while (tokens[at] === '*' || tokens[at] === '/')
      value = tokens[at++] === '*' ? value * factor() : value / factor();
    return value;
  };
  const factor = (): number => {
    const token = tokens[at++];
    if (token === '-') return -factor();
    if (token === '+') return factor();
    if (token === '(') {
      const value = sum();
      return tokens[at++] === ')' ? value : NaN;
    }
    return token !== undefined && /^[\d.]/.test(token) ? Number(token) : NaN;
  };
  const value = sum();
  return at === tokens.length && Number.isFinite(value) ? value : null;
}
