/** The panes draw with WebGL and read their data in the browser. */
export const ssr = false;
