import { useEffect, useState } from "react";

/** The newest picture that has arrived: the one before stays until then, so nothing blinks while a setting moves. */
export function useSteady(href: string): string {
  const [shown, setShown] = useState(href);
  useEffect(() => {
    if (href === shown) return;
    let isWanted = true;
    const image = new Image();
    image.src = href;
    image.decode().then(
      () => isWanted && setShown(href),
      () => isWanted && setShown(href),
    );
    return () => {
      isWanted = false;
    };
  }, [href, shown]);
  return shown;
}
