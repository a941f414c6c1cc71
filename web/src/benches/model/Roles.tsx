import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { answered, http, type Parts, type RoleRule } from "../../api/client";
import type { Editing } from "../../desk/study";
import { Choice } from "../../shared/controls";
import { useChoice } from "./choice";
import { roleTone } from "./parts";

/** Rules that give roles by name pattern; kept with the study, and as a list for the next model. */
export function RoleList({ editing, parts }: { editing: Editing; parts: Parts }) {
  const rules = editing.study.document.role_rules ?? [];
  const { choose } = useChoice();
  const [pattern, setPattern] = useState("");
  const [role, setRole] = useState("furniture");
  const [name, setName] = useState("");
  const queries = useQueryClient();
  const books = useQuery({ queryKey: ["rule-books"], queryFn: () => answered(http.GET("/api/rule-books")) });
  const put = (label: string, next: readonly RoleRule[]) =>
    void editing.act({ do: "role_rules", label, rules: [...next] });
  const counts = new Map<string, number>();
  parts.role.forEach(
    (r, n) => !parts.absent.includes(n) && counts.set(parts.roles[r]!, (counts.get(parts.roles[r]!) ?? 0) + 1),
  );
  return (
    <div className="min-h-0 flex-1 overflow-y-auto">
      <ul className="mb-3">
        {parts.roles
          .filter((r) => counts.has(r))
          .map((r) => (
            <li key={r}>
              <button
                type="button"
                className="plain row w-full"
                title={`Choose all ${r}`}
                onClick={() =>
                  choose(
                    parts.role.flatMap((k, n) => (parts.roles[k] === r && !parts.absent.includes(n) ? [n] : [])),
                    "only",
                  )
                }
              >
                <span className="flex items-center gap-2">
                  <i className="inline-block h-3 w-3 shrink-0" style={{ background: roleTone(r) }} aria-hidden />
                  {r}
                </span>
                <span className="quiet text-xs">{counts.get(r)!.toLocaleString("en")}</span>
              </button>
            </li>
          ))}
      </ul>
      <h2>Rules</h2>
      <p className="quiet text-xs">
        Parts whose layer and name match a pattern get a role; * stands for anything. Later rules prevail.
      </p>
      <ol>
        {rules.map((rule, i) => (
          <li key={i} className="row">
            <span className="min-w-0 truncate" title={rule.pattern}>
              {rule.pattern} <span className="quiet">→ {rule.role}</span>
            </span>
            <button
              type="button"
              className="plain quiet text-xs"
              aria-label={`Remove rule ${rule.pattern}`}
              onClick={() =>
                put(
                  "Remove a rule",
                  rules.filter((_, k) => k !== i),
                )
              }
            >
              remove
            </button>
          </li>
        ))}
      </ol>
      <form
        className="mt-2"
        onSubmit={(e) => {
          e.preventDefault();
          if (!pattern.trim()) return;
          put("Add a rule", [...rules, { pattern: pattern.trim(), role: role as RoleRule["role"] }]);
          setPattern("");
        }}
      >
        <input
          className="field w-full"
          aria-label="Pattern"
          placeholder="*chair*  or  Context/*"
          maxLength={200}
          value={pattern}
          onChange={(e) => setPattern(e.target.value)}
        />
        <Choice
          label="gets the role"
          value={role}
          options={parts.roles.map((r) => ({ value: r, label: r }))}
          onChange={setRole}
        />
        <button type="submit" className="line-act mt-1 text-xs" disabled={!pattern.trim()}>
          Add rule
        </button>
      </form>
      {rules.length > 0 && (
        <>
          <button
            type="button"
            className="act mt-3 text-xs"
            onClick={() => void editing.model({ do: "rules", rules: [...rules] })}
          >
            Apply to all parts
          </button>
          <div className="mt-3 flex items-end gap-2">
            <input
              className="field min-w-0 flex-1"
              aria-label="Name of the rules"
              placeholder="our modeller's names"
              maxLength={120}
              value={name}
              onChange={(e) => setName(e.target.value)}
            />
            <button
              type="button"
              className="line-act text-xs"
              disabled={!name.trim()}
              onClick={() =>
                void http.POST("/api/rule-books", { body: { name: name.trim(), rules: [...rules] } }).then(() => {
                  setName("");
                  void queries.invalidateQueries({ queryKey: ["rule-books"] });
                })
              }
            >
              Keep for others
            </button>
          </div>
        </>
      )}
      {(books.data?.length ?? 0) > 0 && (
        <ul className="mt-3">
          {books.data!.map((book) => (
            <li key={book.name} className="row">
              <span className="min-w-0 truncate">
                {book.name} <span className="quiet">{book.rules.length}</span>
              </span>
              <span className="flex gap-2 text-xs">
                <button
                  type="button"
                  className="plain font-semibold"
                  onClick={() => put(`Take the rules “${book.name}”`, book.rules)}
                >
                  take
                </button>
                <button
                  type="button"
                  className="plain quiet"
                  aria-label={`Remove the rules ${book.name}`}
                  onClick={() =>
                    void http
                      .DELETE("/api/rule-books/{name}", { params: { path: { name: book.name } } })
                      .then(() => queries.invalidateQueries({ queryKey: ["rule-books"] }))
                  }
                >
                  remove
                </button>
              </span>
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}

/** What each role means to a drawing. */
export function BehaviourTable({ parts }: { parts: Parts }) {
  const draws: Record<string, string> = { soft: "soft", plain: "plain", strong: "strong" };
  return (
    <>
      <h2>What roles do</h2>
      <p className="quiet mb-2 text-xs">Each can be overruled for single parts, among their settings.</p>
      <table className="w-full text-xs">
        <thead>
          <tr className="border-b border-soft text-left">
            <th className="label py-1">Role</th>
            <th className="label">Cut</th>
            <th className="label">Seen through</th>
            <th className="label">Drawn</th>
          </tr>
        </thead>
        <tbody>
          {parts.roles.map((r) => {
            const b = parts.behaviour[r]!;
            return (
              <tr key={r} className="border-b border-hairline">
                <td className="py-1.5">
                  <i className="mr-1.5 inline-block h-2.5 w-2.5" style={{ background: roleTone(r) }} aria-hidden />
                  {r}
                </td>
                <td>{b.cut ? (b.poche === "earth" ? "earth" : "yes") : "whole"}</td>
                <td>{b.clear ? "yes" : "no"}</td>
                <td>{draws[b.drawn]}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </>
  );
}
