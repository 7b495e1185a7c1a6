/** What was refused, in its three parts. */
export function Wrong({ said }: { said: string }) {
  if (!said) return null;
  return (
    <p role="alert" className="mt-2 border-l-4 border-stop pl-3 text-stop">
      {said}
    </p>
  );
}
