import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";

import { Refused } from "../api/client";

/** A picture at an address; `null` while it is being drawn. */
async function pictureAt(address: string, method: "GET" | "POST"): Promise<Blob | null> {
  const answer = await fetch(address, { method });
  if (answer.status === 204) return null;
  if (!answer.ok) throw new Refused(`There is no picture at ${address}.`, answer.status);
  return answer.blob();
}

type Options = {
  /** With POST the asking also has it drawn. */
  method?: "GET" | "POST";
  /** Milliseconds between two askings for a picture that is being drawn; they grow when it takes long. */
  every?: number;
};

/**
 * A picture that may still have to be drawn: the newest that came whole, and whether that is another one than was asked for.
 *
 * One request is under way at a time; when it is answered, the newest address is asked. So a drag shows what it can, and never
 * waits for a picture that nobody wants any more.
 */
export function usePicture(
  address: string | null,
  { method = "GET", every = 300 }: Options = {},
): { src: string | null; behind: boolean; shown: string | null } {
  const [taken, setTaken] = useState(address);
  const [shown, setShown] = useState<{ src: string; address: string } | null>(null);
  const query = useQuery({
    queryKey: ["picture", method, taken],
    enabled: taken !== null,
    queryFn: () => pictureAt(taken!, method),
    staleTime: Infinity,
    gcTime: 15_000,
    retry: false,
    refetchInterval: ({ state }) => {
      if (state.data || (state.error instanceof Refused && state.error.status < 500)) return false;
      return every * Math.min(12, 1.15 ** (state.dataUpdateCount + state.errorUpdateCount));
    },
  });
  useEffect(() => {
    if (!query.isFetching) setTaken(address);
  }, [address, query.isFetching]);
  const blob = query.data;
  useEffect(() => {
    if (!blob || taken === null) return;
    let current = true;
    const src = URL.createObjectURL(blob);
    const image = new Image();
    image.src = src;
    image.decode().then(
      () => current && setShown({ src, address: taken }),
      () => undefined, // what is no picture leaves the one before
    );
    return () => {
      current = false;
      setTimeout(() => URL.revokeObjectURL(src), 2000);
    };
  }, [blob, taken]);
  return { src: shown?.src ?? null, behind: shown?.address !== address, shown: shown?.address ?? null };
}
