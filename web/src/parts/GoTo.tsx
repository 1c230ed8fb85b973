// A button that leads to another view of the application.
import { Button, type ButtonProps } from "antd";
import { useNavigate } from "react-router";

export function GoTo({ to, ...rest }: { to: string } & ButtonProps) {
  const go = useNavigate();
  return (
    <Button
      {...rest}
      href={to}
      onClick={(e) => {
        if (e.ctrlKey || e.metaKey || e.shiftKey) return;
        e.preventDefault();
        void go(to);
      }}
    />
  );
}
