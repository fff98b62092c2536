import clsx from "clsx";
import { TriangleAlert } from "lucide-react";
import { Progress as Bar, RadioGroup } from "radix-ui";
import { type ComponentProps, type ReactNode, useId } from "react";

type Tone = "primary" | "plain" | "quiet" | "danger";

const TONES: Record<Tone, string> = {
  primary:
    "bg-action text-on-action border-action hover:brightness-110 disabled:bg-rule disabled:border-rule disabled:text-quiet",
  plain: "bg-panel text-ink border-field hover:border-ink disabled:text-quiet disabled:border-rule",
  quiet: "bg-transparent text-ink border-transparent hover:border-field disabled:text-quiet",
  danger: "bg-panel text-stop border-stop hover:bg-stop-wash disabled:text-quiet disabled:border-rule",
};

/** A button, at least 44 px high. One `primary` on a screen. */
export function Button({
  tone = "plain",
  className,
  type = "button",
  ...rest
}: ComponentProps<"button"> & { tone?: Tone }) {
  return (
    <button
      type={type}
      className={clsx(
        "label inline-flex min-h-11 items-center justify-center gap-2 rounded-sm border px-4 whitespace-nowrap",
        TONES[tone],
        className,
      )}
      {...rest}
    />
  );
}

const INPUT =
  "min-h-11 w-full rounded-sm border border-field bg-panel px-3 py-2 text-ink aria-invalid:border-stop aria-invalid:border-2";

interface FieldProps {
  readonly label: string;
  readonly hint?: ReactNode;
  readonly error?: string | undefined;
  readonly className?: string;
  /** read out and not shown: headings of a table say it */
  readonly hideLabel?: boolean;
}

function FieldFrame({
  label,
  hint,
  error,
  className,
  hideLabel,
  id,
  children,
}: FieldProps & { id: string; children: ReactNode }) {
  return (
    <div className={clsx("flex flex-col gap-1", className)}>
      <label htmlFor={id} className={hideLabel ? "sr-only" : "label"}>
        {label}
      </label>
      {children}
      {hint && !error && (
        <p id={`${id}-hint`} className="text-sm text-quiet">
          {hint}
        </p>
      )}
      {error && (
        <p id={`${id}-error`} role="alert" className="text-sm font-semibold text-stop">
          {error}
        </p>
      )}
    </div>
  );
}

const described = (id: string, hint: ReactNode, error: string | undefined) =>
  error ? `${id}-error` : hint ? `${id}-hint` : undefined;

export function TextField({
  label,
  hint,
  error,
  className,
  hideLabel = false,
  ...rest
}: FieldProps & Omit<ComponentProps<"input">, "className">) {
  const id = useId();
  return (
    <FieldFrame {...{ label, hint, error, hideLabel, id }} {...(className ? { className } : {})}>
      <input
        id={id}
        className={INPUT}
        aria-invalid={error ? true : undefined}
        aria-describedby={described(id, hint, error)}
        {...rest}
      />
    </FieldFrame>
  );
}

export function TextArea({
  label,
  hint,
  error,
  className,
  ...rest
}: FieldProps & Omit<ComponentProps<"textarea">, "className">) {
  const id = useId();
  return (
    <FieldFrame {...{ label, hint, error, id }} {...(className ? { className } : {})}>
      <textarea
        id={id}
        className={clsx(INPUT, "min-h-20")}
        aria-invalid={error ? true : undefined}
        aria-describedby={described(id, hint, error)}
        {...rest}
      />
    </FieldFrame>
  );
}

export function SelectField({
  label,
  hint,
  error,
  className,
  children,
  ...rest
}: FieldProps & Omit<ComponentProps<"select">, "className">) {
  const id = useId();
  return (
    <FieldFrame {...{ label, hint, error, id }} {...(className ? { className } : {})}>
      <select
        id={id}
        className={INPUT}
        aria-invalid={error ? true : undefined}
        aria-describedby={described(id, hint, error)}
        {...rest}
      >
        {children}
      </select>
    </FieldFrame>
  );
}

export interface ChoiceOption<T extends string> {
  readonly value: T;
  readonly label: string;
}

/** One of a few, as large touch targets in a row. */
export function Choice<T extends string>({
  label,
  value,
  options,
  onChange,
  error,
  disabled,
}: {
  label: string;
  value: T | undefined;
  options: readonly ChoiceOption<T>[];
  onChange: (v: T) => void;
  error?: string | undefined;
  disabled?: boolean;
}) {
  const id = useId();
  return (
    <GroupFrame id={id} label={label} error={error}>
      <RadioGroup.Root
        aria-labelledby={id}
        value={value ?? ""}
        onValueChange={(v) => onChange(v as T)}
        disabled={disabled ?? false}
        className="flex flex-wrap gap-1.5"
      >
        {options.map((o) => (
          <RadioGroup.Item
            key={o.value}
            value={o.value}
            className="label min-h-11 rounded-sm border border-field bg-panel px-3 data-[state=checked]:border-slate data-[state=checked]:bg-slate data-[state=checked]:text-on-slate disabled:opacity-60"
          >
            {o.label}
          </RadioGroup.Item>
        ))}
      </RadioGroup.Root>
    </GroupFrame>
  );
}

/** A group of touch targets with its name above and what is wrong with it below. @param id - of the name */
export function GroupFrame({
  id,
  label,
  error,
  children,
}: {
  id: string;
  label: string;
  error: string | undefined;
  children: ReactNode;
}) {
  return (
    <div className="flex flex-col gap-1">
      <span id={id} className="label">
        {label}
      </span>
      {children}
      {error && (
        <p role="alert" className="text-sm font-semibold text-stop">
          {error}
        </p>
      )}
    </div>
  );
}

type NoticeTone = "caution" | "stop" | "clear" | "plain";

const NOTICE: Record<NoticeTone, string> = {
  caution: "border-caution bg-caution-wash",
  stop: "border-stop bg-stop-wash",
  clear: "border-clear bg-clear-wash",
  plain: "border-rule bg-panel",
};

/** A short message in place. `caution` and `stop` carry a sign, so that colour is not alone. */
export function Notice({
  tone,
  title,
  children,
  actions,
  live = false,
}: {
  tone: NoticeTone;
  title?: string;
  children?: ReactNode;
  actions?: ReactNode;
  live?: boolean;
}) {
  const sign = tone === "caution" || tone === "stop";
  return (
    <div
      role={live ? "alert" : undefined}
      className={clsx("flex items-start gap-3 rounded-sm border-l-4 px-3 py-2", NOTICE[tone])}
    >
      {sign && (
        <TriangleAlert
          aria-hidden="true"
          className={clsx("mt-0.5 size-5 shrink-0", tone === "stop" ? "text-stop" : "text-caution")}
        />
      )}
      <div className="min-w-0 flex-1">
        {title && <p className="label">{title}</p>}
        {children && <div className="text-[15px]">{children}</div>}
      </div>
      {actions && <div className="flex shrink-0 gap-2">{actions}</div>}
    </div>
  );
}

/** What a stop shows before there is anything: the next step. */
export function EmptyState({ title, children, action }: { title: string; children?: ReactNode; action?: ReactNode }) {
  return (
    <div className="flex flex-col items-start gap-3 rounded-sm border border-dashed border-field bg-panel p-6">
      <h2 className="text-xl">{title}</h2>
      {children && <div className="max-w-prose text-quiet">{children}</div>}
      {action}
    </div>
  );
}

/** A bar for long work. @param share - 0…1, undefined while it can’t be known */
export function Progress({
  label,
  share,
  onCancel,
}: {
  label: string;
  share: number | undefined;
  onCancel?: (() => void) | undefined;
}) {
  const percent = share === undefined ? undefined : Math.round(share * 100);
  return (
    <div className="flex items-center gap-4 rounded-sm border border-rule bg-panel p-3">
      <div className="flex-1">
        <div className="flex justify-between">
          <span className="label">{label}</span>
          {percent !== undefined && <span className="figures">{percent} %</span>}
        </div>
        <Bar.Root aria-label={label} value={percent ?? null} className="mt-1 h-2 bg-rule">
          <Bar.Indicator
            className="block h-2 bg-action data-[state=indeterminate]:opacity-40"
            style={{ width: `${percent ?? 100}%` }}
          />
        </Bar.Root>
      </div>
      {onCancel && <Button onClick={onCancel}>Cancel</Button>}
    </div>
  );
}

export function Heading({ title, children, actions }: { title: string; children?: ReactNode; actions?: ReactNode }) {
  return (
    <div className="mb-3 flex items-end justify-between gap-x-4 gap-y-2 max-sm:flex-wrap">
      <div className="min-w-0">
        <h1 className="text-[28px] leading-8">{title}</h1>
        {children && <p className="mt-0.5 text-quiet">{children}</p>}
      </div>
      {actions && <div className="flex shrink-0 gap-2">{actions}</div>}
    </div>
  );
}
