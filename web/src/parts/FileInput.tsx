// The file chooser behind a button of ours; the same file may be chosen twice.
import type { RefObject } from "react";

type Props = {
  picker: RefObject<HTMLInputElement | null>;
  label: string;
  accept: string;
  take: (file: File | undefined) => unknown;
  capture?: "environment";
};

export function FileInput({ picker, label, accept, take, capture }: Props) {
  return (
    <input
      ref={picker}
      type="file"
      accept={accept}
      capture={capture}
      hidden
      aria-label={label}
      onChange={(e) => {
        void take(e.target.files?.[0]);
        e.target.value = "";
      }}
    />
  );
}
