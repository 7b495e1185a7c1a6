import { useCallback, useState } from "react";
import { ProblemError } from "../api/client";

/** What a form was refused, in its three parts, beside the form. */
export function useSaying() {
  const [wrong, setWrong] = useState("");
  const tell = useCallback(async (asked: Promise<unknown>): Promise<boolean> => {
    try {
      await asked;
      setWrong("");
      return true;
    } catch (error) {
      if (!(error instanceof ProblemError)) throw error;
      setWrong(`${error.happened} ${error.kept} ${error.thenDo}`);
      return false;
    }
  }, []);
  return { wrong, tell };
}

export function Refused({ said }: { said: string }) {
  if (!said) return null;
  return (
    <p role="alert" className="mt-2 border-l-4 border-stop pl-3 text-stop">
      {said}
    </p>
  );
}
