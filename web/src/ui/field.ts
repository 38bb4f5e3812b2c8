// How every field looks: its label above it, one ruled line around.
import { css } from "styled-components";

export const field = css`
  display: flex;
  flex-direction: column;
  gap: 3px;
  label {
    font-size: 14px;
    font-weight: 600;
    color: var(--g1);
  }
  input {
    font: inherit;
    font-variant-numeric: tabular-nums;
    min-height: 40px;
    padding: 0 10px;
    border: 1.5px solid var(--ink);
    background: transparent;
    color: inherit;
    width: 100%;
  }
`;
