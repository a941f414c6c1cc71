import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { toast } from "sonner";

import { answered, http, Refused, type StudyRow } from "../api/client";
import { goTo } from "../shared/address";
import { Leaf } from "../shared/controls";
import { usePicture } from "../shared/picture";
import { Bring } from "./Bring";

/** All studies, and the way to bring a model. */
export function HomePage() {
  const studies = useQuery({ queryKey: ["studies"], queryFn: () => answered<StudyRow[]>(http.GET("/api/studies")) });
  const about = useQuery({
    queryKey: ["about"],
    queryFn: () => answered<{ version: string }>(http.GET("/api/about")),
    staleTime: Infinity,
  });
  const [removing, setRemoving] = useState<StudyRow | null>(null);
  const queries = useQueryClient();
  useEffect(() => {
    document.title = "Warm Graphite";
  }, []);
  const remove = async () => {
    if (!removing) return;
    try {
      await answered(http.DELETE("/api/studies/{slug}", { params: { path: { slug: removing.slug } } }));
    } catch (error) {
      toast.error(error instanceof Refused ? error.message : "The study could not be removed; try it again.");
    }
    setRemoving(null);
    void queries.invalidateQueries({ queryKey: ["studies"] });
  };
  return (
    <main className="h-full overflow-y-auto">
      <div className="mx-auto max-w-[1040px] px-8 py-10">
        <h1 className="text-[34px] leading-none">Warm Graphite</h1>
        <p className="quiet mt-2 mb-8">
          From a building model to a drawing at scale.
          {about.data && <span className="ml-3 text-xs">Version {about.data.version}</span>}
        </p>
        <Bring />
        <h2 className="mt-10 mb-2 text-[18px]">Studies</h2>
        {studies.isPending && <p className="quiet">Looking for studies …</p>}
        {studies.error && (
          <p role="alert" className="text-sanguine">
            {studies.error.message}{" "}
            <button type="button" className="line-act text-xs" onClick={() => void studies.refetch()}>
              Try again
            </button>
          </p>
        )}
        {studies.data?.length === 0 && <p className="quiet">No study yet. Bring a model above to begin one.</p>}
        <ul className="grid grid-cols-2 gap-x-10 gap-y-8 lg:grid-cols-3">
          {studies.data?.map((study) => (
            <li key={study.slug} className="border-b border-hairline pb-3">
              <button type="button" className="plain block w-full" onClick={() => goTo(`/study/${study.slug}`)}>
                <StudyPicture study={study} />
                <span className="mt-2 block font-serif text-[17px] font-semibold">{study.name}</span>
              </button>
              <p className="quiet flex justify-between text-xs">
                <span>
                  {study.model
                    ? `${study.views} ${study.views === 1 ? "view" : "views"} · ${study.model.parts.toLocaleString("en")} parts · ${study.model.triangles.toLocaleString("en")} triangles`
                    : "cannot be shown as it is"}
                </span>
                <button
                  type="button"
                  className="plain"
                  aria-label={`Remove ${study.name}`}
                  onClick={() => setRemoving(study)}
                >
                  Remove
                </button>
              </p>
            </li>
          ))}
        </ul>
      </div>
      <Leaf
        open={removing !== null}
        onClose={() => setRemoving(null)}
        title={`Remove “${removing?.name ?? ""}”?`}
        about="The study with all its views and its history goes for good. The model file it came from stays where you have it."
      >
        <div className="flex justify-end gap-3">
          <button type="button" className="line-act" onClick={() => setRemoving(null)}>
            Keep it
          </button>
          <button type="button" className="act" onClick={() => void remove()}>
            Remove study
          </button>
        </div>
      </Leaf>
    </main>
  );
}

function StudyPicture({ study }: { study: StudyRow }) {
  const { src } = usePicture(study.first_view ? `/api/studies/${study.slug}/views/${study.first_view}/picture` : null, {
    method: "POST",
    every: 700,
  });
  return (
    <span className="flex aspect-[1.414] w-full items-center justify-center bg-sheet outline outline-1 outline-hairline">
      {src ? (
        <img src={src} alt={`First view of ${study.name}`} className="h-full w-full object-cover" />
      ) : study.problem ? (
        <span className="px-6 text-center text-xs text-sanguine" role="alert">
          {study.problem} Open it to do so.
        </span>
      ) : (
        <span className="quiet">Drawing its first view …</span>
      )}
    </span>
  );
}
