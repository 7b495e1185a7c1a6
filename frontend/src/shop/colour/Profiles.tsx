import { api, problemOf, sent } from "../../api/client";
import type { ColourRoom, Profile } from "../../api/types";
import { useMe } from "../../settings/me";
import { say, sayMany } from "../../texts/say";
import { useInkNames } from "../../ui/inks";
import { Button } from "../../ui/parts";
import { useDeed } from "./useColour";
import { Wrong } from "./Wrong";
import { words } from "./words";

/** Every profile as its header tells it, where it is used, and a way to bring another. */
export function Profiles({ room }: { room: ColourRoom }) {
  const { run, wrong, isBusy } = useDeed();
  const me = useMe();
  return (
    <main className="min-h-0 overflow-auto px-6 py-4">
      <h1 className="text-2xl font-bold">
        {sayMany(
          room.profiles.length,
          "{count} profile says what this shop's inks look like",
          "{count} profiles say what this shop's inks look like",
        )}
      </h1>
      <p className="text-soft">
        {say(
          "A profile holds for one printer on one medium in one mode. What a file describes is read from its header; a screen's or a camera's profile is refused, with the reason.",
        )}
      </p>
      {me.role !== "viewer" && (
        <div className="mt-3">
          <label className="inline-flex min-h-10 cursor-pointer items-center rounded-lg border border-act bg-act px-3.5 py-1.5 font-semibold text-on-act">
            {say("Add a profile (.icc)")}
            <input
              type="file"
              accept=".icc,.icm"
              className="sr-only"
              disabled={isBusy}
              onChange={(e) => {
                const file = e.target.files?.[0];
                e.target.value = "";
                if (file) void run(() => sent<Profile>("/api/colour/profiles", file));
              }}
            />
          </label>
          <Wrong said={wrong} />
        </div>
      )}
      <ul className="mt-4 grid gap-4 min-[1200px]:grid-cols-2">
        {room.profiles.map((p) => (
          <OneProfile
            key={p.id}
            profile={p}
            room={room}
            onRemove={
              me.role === "viewer" || p.id === room.own_profile
                ? undefined
                : () =>
                    void run(async () => {
                      const answer = await api.DELETE("/api/colour/profiles/{profile}", {
                        params: { path: { profile: p.id } },
                      });
                      if (!answer.response.ok) throw problemOf(answer.error);
                    })
            }
          />
        ))}
      </ul>
    </main>
  );
}

function OneProfile({
  profile: p,
  room,
  onRemove,
}: {
  profile: Profile;
  room: ColourRoom;
  onRemove: (() => void) | undefined;
}) {
  const { nameOf } = useInkNames();
  const used = room.conditions.filter((c) => c.condition?.profile === p.id);
  return (
    <li className="rounded-lg border border-hair2 bg-panel p-4">
      <div className="flex items-baseline justify-between gap-3">
        <h2 className="text-lg font-bold">{p.name}</h2>
        <span className="num rounded border border-current px-1.5 text-sm font-semibold">{p.space}</span>
      </div>
      <dl className="mt-1 grid grid-cols-[auto_1fr] gap-x-4 text-[15px]">
        <Fact
          name={say("for")}
          said={
            used.length
              ? used
                  .map((c) =>
                    say("{printer} on {medium}, {mode}", {
                      printer: c.printer_name,
                      medium: words(c.media),
                      mode: c.mode_name,
                    }),
                  )
                  .join("; ")
              : say("nothing yet")
          }
        />
        <Fact
          name={say("its ground")}
          said={`Lab ${p.white_lab.map((v) => (Math.round(v * 10) / 10 + 0).toFixed(1)).join(" ")}`}
          isFigure
        />
        {!!p.inks?.length && <Fact name={say("its inks")} said={p.inks.map(nameOf).join(", ")} />}
        <Fact name={say("intents")} said={p.intents?.join(", ") || say("none named")} />
        <Fact
          name={say("version")}
          said={say("{version}, {size_bytes} kB, connects through {connection}", {
            version: p.version,
            size_bytes: (p.size_bytes / 1000).toFixed(0),
            connection: p.connection,
          })}
        />
        <Fact name={say("tags")} said={p.tags?.map((t) => t.signature).join("  ") ?? ""} isFigure />
        <Fact name={say("hash")} said={p.id.slice(0, 12)} isFigure />
        {p.copyright && <Fact name={say("copyright")} said={p.copyright} />}
        {p.added_by && <Fact name={say("added by")} said={p.added_by} />}
      </dl>
      {onRemove && (
        <div className="mt-2">
          <Button kind="quiet" onClick={onRemove} label={say("Take it out of the list: {name}", { name: p.name })}>
            {say("Take it out of the list")}
          </Button>
        </div>
      )}
      {p.id === room.own_profile && (
        <p className="mt-2 text-sm text-soft">{say("Ships with Offsetter; stands in where none is assigned.")}</p>
      )}
    </li>
  );
}

function Fact({ name, said, isFigure }: { name: string; said: string; isFigure?: boolean }) {
  return (
    <>
      <dt className="text-soft">{name}</dt>
      <dd className={isFigure ? "num" : ""}>{said}</dd>
    </>
  );
}
