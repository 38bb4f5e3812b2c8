// One of a few, seen all at once: a radio group, by arrow keys, touch and screen
// reader, that looks like the buttons of the page.
import { Label, Radio, RadioGroup } from "react-aria-components";
import styled from "styled-components";

const Group = styled(RadioGroup)<{ $bench?: boolean | undefined }>`
  > span:first-child {
    display: block;
    font-size: 14px;
    font-weight: 600;
    color: var(--g1);
    margin-bottom: 4px;
  }
  > div {
    display: flex;
    flex-wrap: wrap;
    gap: 8px;
  }
  .one {
    font-weight: 600;
    min-height: ${(p) => (p.$bench ? 64 : 44)}px;
    font-size: ${(p) => (p.$bench ? 20 : 16)}px;
    padding: 0 16px 0 12px;
    border: 1.5px solid var(--ink);
    display: inline-flex;
    align-items: center;
    gap: 10px;
    cursor: pointer;
  }
  .one::before {
    content: "";
    width: 12px;
    height: 12px;
    border: 1.5px solid currentColor;
    border-radius: 50%;
    flex: none;
  }
  .one[data-selected] {
    background: var(--ink);
    color: var(--paper);
  }
  .one[data-selected]::before {
    background: currentColor;
    box-shadow: inset 0 0 0 2px var(--ink);
  }
  .one[data-focus-visible] {
    outline: 3px solid var(--blue);
    outline-offset: 2px;
  }
  .one[data-disabled] {
    color: var(--g2);
    border-color: var(--g3);
    cursor: default;
  }
`;

type Props<T extends string> = {
  label: string;
  value: T;
  onChange: (value: T) => void;
  of: readonly { value: T; label: string }[];
  bench?: boolean;
  /** The page is drawn anew by a choice in it: the chosen one has the focus again. */
  focused?: boolean;
};

export function Choices<T extends string>({ label, value, onChange, of, bench, focused }: Props<T>) {
  return (
    <Group $bench={bench} value={value} onChange={(v) => onChange(v as T)}>
      <Label>{label}</Label>
      <div>
        {of.map((o) => (
          <Radio key={o.value} value={o.value} className="one" autoFocus={(focused ?? false) && o.value === value}>
            {o.label}
          </Radio>
        ))}
      </div>
    </Group>
  );
}
