/** Stands in for every icon in tests: it draws nothing. */
module.exports = new Proxy({}, { get: (_, name) => (name === '__esModule' ? true : () => null) });
