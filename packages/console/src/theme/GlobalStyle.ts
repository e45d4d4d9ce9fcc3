import { createGlobalStyle } from 'styled-components';
import { color, corner, DARK_DECLARATIONS, font, LIGHT_DECLARATIONS } from './tokens.js';

export const GlobalStyle = createGlobalStyle`
  :root { color-scheme: light dark; ${LIGHT_DECLARATIONS} }
  @media (prefers-color-scheme: dark) { :root { ${DARK_DECLARATIONS} } }
  *, *::before, *::after { box-sizing: border-box; }
  html, body, #root { height: 100%; margin: 0; }
  body { background: ${color.paper}; color: ${color.ink}; font: 15px/1.45 ${font.text}; font-variant-numeric: tabular-nums; }
  h1, h2, h3, p { margin: 0; }
  a { color: ${color.water}; text-decoration-thickness: 1px; text-underline-offset: 2px; }
  code, pre { font-family: ${font.mono}; font-size: 13px; }
  :focus-visible, [data-focus-visible] { outline: 2px solid ${color.water}; outline-offset: 2px; border-radius: ${corner}; }
  @media (prefers-reduced-motion: reduce) { * { animation: none !important; transition: none !important; } }
`;
