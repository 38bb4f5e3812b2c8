// How the sheet looks: ruled rows, a heading that stays, the cell that is at.
import { Button } from "react-aria-components";
import styled from "styled-components";

export const Grid = styled.table`
  border-collapse: collapse;
  width: 100%;
  table-layout: fixed;
  font-size: 15.5px;
  th {
    font-size: 13px;
    font-weight: 600;
    color: var(--g2);
    text-align: left;
    padding: 4px 8px 4px 0;
    border-bottom: 1px solid var(--ink);
    position: sticky;
    top: 0;
    background: var(--paper);
    z-index: 1;
  }
  td {
    padding: 3px 8px 3px 0;
    border-bottom: 1px solid var(--g4);
    height: 32px;
    overflow-wrap: anywhere;
    scroll-margin-top: 34px;
  }
  th:first-child {
    width: 78px;
  }
  th.n,
  td.n {
    text-align: right;
  }
  td[role="gridcell"] {
    cursor: cell;
  }
  td:focus {
    outline: 3px solid var(--blue);
    outline-offset: -3px;
  }
  tr[aria-selected="true"] td {
    background: var(--wash);
  }
  tr[data-over],
  tr:focus-visible {
    outline: 3px dashed var(--blue);
    outline-offset: -3px;
  }
  tr.fault td {
    border-bottom-color: var(--brick);
  }
  tr.stage td {
    font-weight: 700;
    padding-top: 8px;
    border-bottom-color: var(--ink);
    white-space: normal;
  }
  td.says {
    white-space: normal;
    color: var(--brick);
    font-weight: 600;
  }
  input,
  select {
    font: inherit;
    font-variant-numeric: tabular-nums;
    min-height: 30px;
    width: 100%;
    min-width: 64px;
    border: 1.5px solid var(--ink);
    background: var(--paper);
    color: inherit;
  }
`;

export const Grip = styled(Button)`
  cursor: grab;
  user-select: none;
  font: inherit;
  color: var(--g2);
  background: none;
  border: 0;
  padding: 0 4px 0 0;
  min-height: 32px;
  min-width: 24px;
  margin: -4px 0;
`;
