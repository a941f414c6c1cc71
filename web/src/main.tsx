import "./app.css";

import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { Tooltip } from "radix-ui";
import { lazy, StrictMode, Suspense } from "react";
import { createRoot } from "react-dom/client";
import { Toaster } from "sonner";

import { HomePage } from "./studies/HomePage";
import { useAddress } from "./shared/address";
import { Bounded } from "./shared/Bounded";

const DeskPage = lazy(() => import("./desk/DeskPage"));
const SetPage = lazy(() => import("./out/SetPage"));
const ProofPage = lazy(() => import("./out/ProofPage"));

const queries = new QueryClient({ defaultOptions: { queries: { retry: 1, refetchOnWindowFocus: false } } });

function Pages() {
  const address = useAddress();
  const [, slug, page, board, number] =
    /^\/study\/([\w-]+)(?:\/(set|proof(?:\/([\w-]+)\/(\d+))?))?$/.exec(address) ?? [];
  if (slug)
    return (
      <Suspense fallback={<p className="quiet p-8">Laying out the desk …</p>}>
        {page === "set" ? (
          <SetPage key={slug} slug={slug} />
        ) : page ? (
          <ProofPage key={slug} slug={slug} board={board} page={Number(number ?? 1)} />
        ) : (
          <DeskPage key={slug} slug={slug} />
        )}
      </Suspense>
    );
  return <HomePage />;
}

createRoot(document.getElementById("root")!).render(
  <StrictMode>
    <QueryClientProvider client={queries}>
      <Tooltip.Provider>
        <Bounded what="This page">
          <Pages />
        </Bounded>
        <Toaster
          position="bottom-center"
          toastOptions={{
            unstyled: true,
            className: "bg-graphite text-sheet px-4 py-3 text-[14px] max-w-[560px] flex gap-3",
          }}
        />
      </Tooltip.Provider>
    </QueryClientProvider>
  </StrictMode>,
);
