// The fields for numbers: one, and several in a line.
import { useEffect, useRef, useState, type RefObject } from "react";
import { Input, Label, TextField } from "react-aria-components";
import styled from "styled-components";
import { hold } from "./holds";
import { useSay } from "./say";
import { field } from "./field";
import { beyond, readNumber, readNumbers } from "./number";
import { labelIn, ownOf, shortNumber, shownNumber, unitOf } from "./units";

const Styled = styled(TextField)<{ $bench?: boolean | undefined }>`
  ${field}
  ${(p) => p.$bench && "input { min-height: 64px; font-size: 26px; }"}
  &[data-invalid] input {
    border-color: var(--brick);
    border-width: 2.5px;
  }
`;

const Message = styled.span`
  color: var(--brick);
  font-size: 14px;
  font-weight: 600;
`;

/** Holds every save of the page while an entry is wrong, and leads to it. */
export function useHold(label: string, typed: string | null, message: string, show: () => void) {
  const say = useSay();
  // What takes a field away while its entry is wrong says what went with it.
  const entry = useRef("");
  useEffect(() => {
    entry.current = message && typed?.trim() ? `${label}: “${typed}” was not kept: ${message}` : "";
  });
  useEffect(() => () => void (entry.current && say(entry.current)), [say]);
  const by = useRef({});
  const shown = useRef(show);
  useEffect(() => {
    shown.current = show;
  });
  useEffect(() => {
    const key = by.current;
    hold(key, message ? { label, message, show: () => shown.current() } : null);
    return () => hold(key, null);
  }, [message, label]);
}

type Look = {
  label: string;
  text: string;
  message: string;
  onChange: (typed: string) => void;
  onLeave: () => void;
  onForget: () => void;
  bench?: boolean | undefined;
  off?: boolean | undefined;
  plain?: boolean | undefined;
  input: RefObject<HTMLInputElement | null>;
};

function Typed({ label, text, message, onChange, onLeave, onForget, bench, off, plain, input }: Look) {
  return (
    <Styled
      $bench={bench}
      value={text}
      isReadOnly={off ?? false}
      isInvalid={message !== ""}
      {...(plain ? { "aria-label": label } : {})}
      onChange={onChange}
      onBlur={onLeave}
      onKeyDown={(e) => {
        if (e.key === "Enter") onLeave();
        if (e.key === "Escape") onForget();
      }}
    >
      {!plain && <Label>{label}</Label>}
      <Input ref={input} inputMode="decimal" autoComplete="off" />
      {message && <Message role="alert">{message}</Message>}
    </Styled>
  );
}

type Props = {
  /** Ends in the unit where there is one: "Length, m". */
  label: string;
  /** In that unit; NaN: nothing is entered. */
  value: number;
  onChange: (v: number) => void;
  min?: number;
  max?: number;
  bench?: boolean;
  /** Tells the value when the field is left or Enter is pressed, not at every key. */
  late?: boolean;
  /** It may not be left empty. */
  need?: boolean;
  off?: boolean;
  /** The label is read out only: it stands elsewhere. */
  plain?: boolean;
  /** The value and its limits are in K; °C is what people enter. */
  kelvin?: boolean;
};

const zero = 273.15;
const fromKelvin = (k: number) => +(k - zero).toPrecision(9);

/**
 * A number as somebody types it. What cannot be read stays as it was typed, with
 * its sentence, and holds every save of the page; the value is then NaN, so that
 * nothing goes on with an old one.
 */
export function NumberField({ kelvin, value, onChange, min, max, ...rest }: Props) {
  if (!kelvin) return <Entered {...rest} {...{ value, onChange }} {...limits(min, max)} />;
  return (
    <Entered
      {...rest}
      value={fromKelvin(value)}
      onChange={(c) => onChange(c + zero)}
      {...limits(min === undefined ? min : min - zero, max === undefined ? max : max - zero)}
    />
  );
}

const limits = (min: number | undefined, max: number | undefined) => ({
  ...(min === undefined ? {} : { min }),
  ...(max === undefined ? {} : { max }),
});

function Entered({ label, value, onChange, min, max, bench, late, need, off, plain }: Omit<Props, "kelvin">) {
  const [text, setText] = useState<string | null>(null);
  const [left, setLeft] = useState(true);
  const input = useRef<HTMLInputElement>(null);
  const metric = unitOf(label);
  const mine = ownOf(label, metric);
  const to = (v: number | undefined) => (v === undefined || !mine ? v : mine.to(v));
  const judge = (typed: string | null) => {
    if (typed === null) return { message: need && Number.isNaN(value) ? "a number is needed here" : "", value };
    const r = readNumber(typed, mine?.unit ?? metric, mine?.difference ?? metric === "K");
    if ("message" in r) return { message: r.message, value: NaN };
    if ("empty" in r) return { message: need ? "a number is needed here" : "", value: NaN };
    // What came from the record is shown as it is, also beyond today's limits.
    return {
      message: beyond(r.value, mine?.unit ?? metric, to(min), to(max)),
      value: mine ? mine.from(r.value) : r.value,
    };
  };
  const now = judge(text);
  useHold(labelIn(label), text, now.message, () => {
    setText((t) => t ?? "");
    setLeft(true);
    input.current?.focus();
  });
  const tell = (typed: string) => {
    const { message, value: v } = judge(typed);
    if (late && message) return; // what is kept stays until this is put right
    const next = message ? NaN : v;
    if (!Object.is(next, value)) onChange(next);
  };
  return (
    <Typed
      {...{ bench, off, plain, input }}
      label={labelIn(label)}
      text={text ?? (mine ? shortNumber(mine.to(value)) : shownNumber(value))}
      message={left && text !== null ? now.message : ""}
      onChange={(typed) => {
        setText(typed);
        setLeft(false);
        if (!late) tell(typed);
      }}
      onLeave={() => {
        setLeft(true);
        if (text === null) return;
        if (late) tell(text);
        if (!now.message) setText(null);
      }}
      onForget={() => {
        setText(null);
        setLeft(true);
      }}
    />
  );
}

/** Several numbers in a line, told when the field is left. */
export function NumbersField({
  label,
  values,
  onChange,
  count,
}: {
  label: string;
  values: number[];
  onChange: (v: number[]) => void;
  /** As many as that, and no other number of them. */
  count?: number;
}) {
  const [text, setText] = useState<string | null>(null);
  const input = useRef<HTMLInputElement>(null);
  const mine = ownOf(label, unitOf(label));
  const read = text === null ? { values } : readNumbers(text, mine?.unit ?? unitOf(label));
  const off = "values" in read && count !== undefined && text !== null && read.values.length !== count;
  const message = "message" in read ? read.message : off ? `${count} numbers are needed here` : "";
  useHold(labelIn(label), text, message, () => input.current?.focus());
  return (
    <Typed
      {...{ input, message }}
      label={labelIn(label)}
      text={text ?? values.map((v) => (mine ? shortNumber(mine.to(v)) : shownNumber(v))).join("; ")}
      onChange={setText}
      onLeave={() => {
        if (message || !("values" in read) || text === null) return;
        onChange(mine ? read.values.map(mine.from) : read.values);
        setText(null);
      }}
      onForget={() => setText(null)}
    />
  );
}
