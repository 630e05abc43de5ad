import { Toast } from "radix-ui";
import { createContext, type ReactNode, useCallback, useContext, useMemo, useState } from "react";
import { Button } from "./Button";

interface Notice {
  id: number;
  text: string;
  undo?: (() => void) | undefined;
}

const Notices = createContext<(text: string, undo?: () => void) => void>(() => {});

/** Says something in passing; with `undo`, offers the way back in place of asking beforehand. */
export const useNotice = () => useContext(Notices);

let counter = 0;

export function NoticeProvider({ children }: { children: ReactNode }) {
  const [notices, setNotices] = useState<Notice[]>([]);
  const say = useCallback((text: string, undo?: () => void) => {
    counter += 1;
    const notice = { id: counter, text, undo };
    setNotices((before) => [...before.slice(-2), notice]);
  }, []);
  const close = useCallback(
    (id: number) => setNotices((before) => before.filter((notice) => notice.id !== id)),
    [],
  );
  const value = useMemo(() => say, [say]);
  return (
    <Notices.Provider value={value}>
      <Toast.Provider duration={12_000} swipeDirection="down">
        {children}
        {notices.map((notice) => (
          <Toast.Root
            key={notice.id}
            onOpenChange={(open) => !open && close(notice.id)}
            className="flex items-center gap-4 rounded-xl border border-edge bg-surface px-4 py-3 text-ink shadow-lg"
          >
            <Toast.Description className="flex-1">{notice.text}</Toast.Description>
            {notice.undo && (
              <Toast.Action asChild altText="Undo">
                <Button look="plain" onClick={notice.undo}>
                  Undo
                </Button>
              </Toast.Action>
            )}
          </Toast.Root>
        ))}
        <Toast.Viewport className="fixed bottom-4 left-1/2 z-40 flex w-[min(34rem,92vw)] -translate-x-1/2 flex-col gap-2 outline-none" />
      </Toast.Provider>
    </Notices.Provider>
  );
}
