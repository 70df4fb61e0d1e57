import { useMutation } from "../../api/mutation";
import { useEffect, useRef } from "react";
import { useLocation } from "react-router";
import { answer, api } from "../../api/client";
import { Button } from "../../ui/Button";
import { Warning } from "../../ui/Trouble";
import { Front } from "./Front";

/** Where the link at the end of a mail leads: it ends them, and they can be had again. */
export function MailsScreen() {
  const token = useLocation().hash.slice(1);
  const params = { params: { path: { token } } };
  const end = useMutation({ mutationFn: () => answer(api.POST("/api/v1/digests/{token}/end", params)) });
  const resume = useMutation({ mutationFn: () => answer(api.DELETE("/api/v1/digests/{token}/end", params)) });
  const asked = useRef(false);
  const { mutate } = end;
  useEffect(() => {
    // The one click was that on the link; it counts once.
    if (asked.current || token === "") return;
    asked.current = true;
    mutate();
  }, [mutate, token]);
  const trouble = end.error ?? resume.error;
  return (
    <Front
      onSubmit={(e) => {
        e.preventDefault();
        resume.mutate();
      }}
      lead="Mails about your blog"
    >
      {trouble && <Warning>{trouble.message}</Warning>}
      <p role="status">
        {token === ""
          ? "This link is not whole. Open it again from the mail."
          : resume.isSuccess
            ? "They will come again."
            : end.isSuccess
              ? "You will get no more of these mails."
              : end.isPending || end.isIdle
                ? "One moment…"
                : ""}
      </p>
      {end.isSuccess && !resume.isSuccess && (
        <Button type="submit" disabled={resume.isPending} className="w-full">
          Send them again
        </Button>
      )}
    </Front>
  );
}
