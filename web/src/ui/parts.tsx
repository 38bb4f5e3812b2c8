// Small parts of the look that every room uses: ruled paper, no cards.
import { Children, type CSSProperties, type ReactNode, type SelectHTMLAttributes } from "react";
import {
  Button as AriaButton,
  type ButtonProps,
  FieldError,
  Input,
  Label,
  TextField as AriaTextField,
} from "react-aria-components";
import styled, { css } from "styled-components";
import { explain } from "../contract/types";
import { arrived } from "./arrival";
import { field } from "./field";
import { keyShown } from "./shortcuts";
import { said } from "./units";

export { NumberField, NumbersField } from "./NumberField";

const pressable = css`
  font: inherit;
  font-weight: 700;
  border: 2px solid var(--blue);
  background: var(--blue);
  color: var(--on-blue);
  min-height: 40px;
  padding: 0 18px;
  cursor: pointer;
  &[data-disabled] {
    background: transparent;
    border-color: var(--g3);
    color: var(--g2);
    cursor: not-allowed;
  }
  line-height: 1.15;
  > small {
    display: block;
    font-size: max(0.68em, 12px);
    font-weight: 400;
    color: var(--g1);
  }
`;

const Pressed = styled(AriaButton)<Looks>`
  ${pressable}
  ${(p) => p.$quiet && "&:not([data-disabled]) { background: transparent; color: var(--ink); border-color: var(--ink); }"}
  ${(p) =>
    p.$quiet &&
    '&&[aria-pressed="true"] { background: var(--ink); color: var(--paper); border-color: var(--ink); > small { color: inherit; } }'}
  ${(p) => p.$small && "min-height: 32px; font-size: 14px; padding: 0 10px; border-width: 1.5px; white-space: nowrap;"}
  ${(p) => p.$bench && "min-height: 68px; font-size: 22px; padding: 0 24px;"}
`;

type Looks = { $quiet?: boolean | undefined; $bench?: boolean | undefined; $small?: boolean | undefined };

/**
 * What can be pressed. quiet is the second choice beside a first. why is what
 * has to be done before it can be pressed: while it is there, the button is
 * grey and says so in a second line, which does not make it higher.
 */
export function Button({
  why,
  isDisabled = false,
  children,
  ...rest
}: PressedProps & Looks & { why?: string | undefined }) {
  if (!why)
    return (
      <Pressed isDisabled={isDisabled} {...rest}>
        {children}
      </Pressed>
    );
  // What is read out is then what is seen: a name of its own would hide the reason.
  const seen = { ...rest };
  delete seen["aria-label"];
  return (
    <Pressed isDisabled {...seen}>
      {children}
      <small>{why}</small>
    </Pressed>
  );
}

type PressedProps = Omit<ButtonProps, "children" | "className" | "style"> & {
  children?: ReactNode;
  className?: string;
  style?: CSSProperties;
};

export const LinkButton = styled.a`
  ${pressable}
  background: transparent;
  color: var(--ink);
  border-color: var(--ink);
  display: inline-flex;
  align-items: center;
  text-decoration: none;
`;

export const Heading = styled.h2`
  font-size: 15px;
  font-weight: 600;
  color: var(--g2);
`;

export const Big = styled.h1`
  font-size: 30px;
  font-weight: 700;
  line-height: 1.15;
  letter-spacing: -0.01em;
`;

export const Rule = styled.hr`
  border: 0;
  border-top: 1px solid var(--ink);
  margin: 14px 0;
`;

export const Row = styled.div<{ $gap?: number; $between?: boolean; $top?: boolean }>`
  display: flex;
  flex-wrap: wrap;
  align-items: ${(p) => (p.$top ? "flex-start" : "center")};
  gap: ${(p) => p.$gap ?? 16}px;
  ${(p) => p.$between && "justify-content: space-between;"}
`;

export const Stack = styled.div<{ $gap?: number }>`
  display: flex;
  flex-direction: column;
  gap: ${(p) => p.$gap ?? 12}px;
`;

export const Table = styled.table`
  border-collapse: collapse;
  width: 100%;
  th,
  td {
    padding: 6px 10px 6px 0;
    border-bottom: 1px solid var(--g4);
    text-align: left;
    vertical-align: middle;
  }
  th {
    font-size: 13.5px;
    font-weight: 600;
    color: var(--g2);
    border-bottom-color: var(--ink);
  }
  th.n,
  td.n {
    text-align: right;
    padding-right: 16px;
    white-space: nowrap;
  }
  tr.on td {
    background: var(--wash);
  }
`;

/** A state in words with its mark; colour only goes along. */
const tones = {
  met: ["✓", "--green"],
  attend: ["!", "--ochre"],
  stop: ["✕", "--brick"],
  plain: ["·", "--g1"],
} as const;

const Said = styled.span<{ $colour: string }>`
  color: var(${(p) => p.$colour});
  font-weight: 700;
`;

export function Mark({ tone, children }: { tone: keyof typeof tones; children: ReactNode }) {
  const [sign, colour] = tones[tone];
  return (
    <Said $colour={colour}>
      <span aria-hidden="true">{sign} </span>
      {Children.map(children, (c) => (typeof c === "string" ? said(c) : c))}
    </Said>
  );
}

const Box = styled.div`
  border: 2px solid var(--brick);
  padding: 10px 14px;
  max-height: 240px;
  overflow: auto;
  ul {
    margin: 6px 0 0;
    padding-left: 20px;
  }
`;

/** Why something was refused, at the place where it was asked. */
export function Refusal({ error }: { error: unknown }) {
  if (!error) return null;
  const { message, details } = explain(error);
  return (
    <Box role="alert">
      <Mark tone="stop">{message}</Mark>
      {details.length > 0 && (
        <ul>
          {details.map((d) => (
            <li key={d}>{said(d)}</li>
          ))}
        </ul>
      )}
    </Box>
  );
}

const StyledText = styled(AriaTextField)`
  ${field}
`;
type TextProps = {
  label: string;
  value: string;
  onChange: (v: string) => void;
  type?: string;
  /** A field for a PIN: digits, and a scanner may still be read beside it. */
  pin?: boolean;
  autoFocus?: boolean;
  isRequired?: boolean;
  isReadOnly?: boolean;
};

export function TextField({ label, pin, ...rest }: TextProps) {
  return (
    <StyledText {...rest}>
      <Label>{label}</Label>
      {pin ? <Input inputMode="numeric" autoComplete="off" data-pin="yes" /> : <Input />}
      <FieldError />
    </StyledText>
  );
}

export const Select = styled.select`
  font: inherit;
  min-height: 40px;
  padding: 0 8px;
  border: 1.5px solid var(--ink);
  background: var(--paper);
  color: inherit;
`;

const StyledSelect = styled.label`
  display: flex;
  flex-direction: column;
  gap: 3px;
  > span {
    font-size: 14px;
    font-weight: 600;
    color: var(--g1);
  }
`;

/** A choice with its label above it, like every other field. */
export function SelectField({ label, ...rest }: { label: string } & SelectHTMLAttributes<HTMLSelectElement>) {
  return (
    <StyledSelect>
      <span>{label}</span>
      <Select {...rest} />
    </StyledSelect>
  );
}

/** Teaches what will stand here, with the one action that starts it. */
export const Empty = styled.div`
  border: 1px dashed var(--g3);
  padding: 24px;
  color: var(--g1);
  font-size: 18px;
  max-width: 60ch;
`;

export function Loading({ error }: { error?: unknown }) {
  return error ? <Refusal error={error} /> : <p role="status">Fetching …</p>;
}

export const Caution = styled.p`
  font-size: 14.5px;
  color: var(--g1);
  border-left: 4px solid var(--ochre);
  padding-left: 10px;
`;

const Unseen = styled.p`
  position: absolute;
  width: 1px;
  height: 1px;
  margin: -1px;
  overflow: hidden;
  clip-path: inset(50%);
  white-space: nowrap;
`;

/** Read out when it changes: what was decided, and not what is measured every second. */
export function Spoken({ children }: { children: ReactNode }) {
  return <Unseen role="status">{children}</Unseen>;
}

const Kbd = styled.kbd`
  font: inherit;
  font-size: 13px;
  border: 1px solid var(--g2);
  padding: 0 6px;
`;

/** A key as this person presses it; nothing where they have switched single keys off. */
export function Key({ children }: { children: string }) {
  const key = keyShown(children);
  return key === "" ? null : <Kbd>{key}</Kbd>;
}

/** Pages of one room, as words on a rule. */
export const Tabs = styled.nav`
  display: flex;
  flex-wrap: wrap;
  gap: 0 4px;
  border-bottom: 1px solid var(--ink);
  padding: 6px 24px 0;
  a {
    padding: 8px 14px 9px;
    min-height: 44px;
    font-weight: 600;
    color: var(--g1);
    text-decoration: none;
    border-bottom: 4px solid transparent;
  }
  a.active {
    color: var(--ink);
    border-bottom-color: var(--ink);
  }
`;

export const Page = styled.main.attrs({ id: "page", tabIndex: -1, ref: arrived })`
  outline: none;
  padding: 16px 24px 32px;
`;
