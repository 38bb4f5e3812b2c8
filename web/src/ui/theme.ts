// The palette of the bench: backing paper, carbon, graphite and one blue.
// Every text colour keeps 7:1 on paper, so that all of it may stand at the
// bench. The dark variant is for the oven room.
import { createGlobalStyle } from "styled-components";

export const Global = createGlobalStyle`
  :root {
    --paper: #F6F3EC; --ink: #17191B; --g1: #3D4246; --g2: #4C5256; --g3: #A9ACA9; --g4: #D9D6CC; --wash: #ECE8DC;
    --blue: #1A4F78; --on-blue: #FFFFFF; --ochre: #6B4204; --brick: #8E2212; --green: #1C543C; --chosen: #17191B; --on-chosen: #FFFFFF;
    color-scheme: light;
  }
  @media (prefers-color-scheme: dark) {
    :root {
      --paper: #17191B; --ink: #F6F3EC; --g1: #D3D0C8; --g2: #B9BAB5; --g3: #6B7176; --g4: #34393D; --wash: #24282B;
      --blue: #8FC4EC; --on-blue: #10202C; --ochre: #F0B95A; --brick: #F5A293; --green: #8FD3B0; --chosen: #F6F3EC; --on-chosen: #17191B;
      color-scheme: dark;
    }
  }
  * { box-sizing: border-box; }
  html, body, #root { height: 100%; }
  body { margin: 0; background: var(--paper); color: var(--ink); font: 16px/1.4 "Atkinson Hyperlegible Next Variable", sans-serif; font-variant-numeric: tabular-nums; }
  h1, h2, h3, p { margin: 0; }
  a { color: var(--blue); text-underline-offset: 3px; }
  small { font-size: 0.85em; color: var(--g2); }
  input[type="file"]::file-selector-button { font: inherit; font-weight: 700; min-height: 38px; border: 2px solid var(--ink); background: transparent; color: inherit; padding: 0 14px; margin-right: 10px; }
  :focus-visible { outline: 3px solid var(--blue); outline-offset: 2px; }
  @media (prefers-reduced-motion: reduce) { * { animation: none !important; transition: none !important; } }
  @media print { nav, button { display: none !important; } }
`;
