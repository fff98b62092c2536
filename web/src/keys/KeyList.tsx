import { Modal } from "../shared/Modal.tsx";
import { useShortcutList } from "./shortcuts.tsx";

export function KeyList({ open, onClose }: { open: boolean; onClose: () => void }) {
  const list = useShortcutList(open);
  const groups = [...new Set(list.map((s) => s.group))];
  return (
    <Modal open={open} onClose={onClose} title="Keys" description="They are off while you type in a field.">
      {groups.map((g) => (
        <section key={g} className="mb-4">
          <h3 className="text-lg">{g}</h3>
          <dl className="grid grid-cols-[90px_1fr] gap-y-1">
            {list
              .filter((s) => s.group === g)
              .map((s) => (
                <div key={s.key} className="contents">
                  <dt>
                    <kbd className="figures inline-block min-w-7 border border-field px-1.5 text-center">
                      {s.key === " " ? "Space" : s.key}
                    </kbd>
                  </dt>
                  <dd>{s.label}</dd>
                </div>
              ))}
          </dl>
        </section>
      ))}
    </Modal>
  );
}
