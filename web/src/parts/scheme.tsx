// Light or dark: the person's choice, else the machine's.
import { createContext, useContext, useEffect, useState, type ReactNode } from "react";

type Scheme = "light" | "dark";
const Context = createContext<{ scheme: Scheme; flip: () => void }>({ scheme: "light", flip: () => undefined });

export function SchemeProvider({ children }: { children: ReactNode }) {
  const [scheme, setScheme] = useState<Scheme>(() => {
    const kept = localStorage.getItem("scheme");
    if (kept === "dark" || kept === "light") return kept;
    return matchMedia("(prefers-color-scheme: dark)").matches ? "dark" : "light";
  });
  useEffect(() => {
    document.documentElement.dataset["scheme"] = scheme;
  }, [scheme]);
  const flip = () => {
    const next = scheme === "dark" ? "light" : "dark";
    localStorage.setItem("scheme", next);
    setScheme(next);
  };
  return <Context.Provider value={{ scheme, flip }}>{children}</Context.Provider>;
}

export const useScheme = () => useContext(Context);
