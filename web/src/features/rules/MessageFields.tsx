import { useState } from "react";
import { Fold } from "../../ui/Fold";
import { Tick } from "../../ui/Tick";
import { ParamsField } from "../channels/ParamsField";
import { ReplyFields } from "../channels/SayFields";
import { SideBySide } from "../channels/SideBySide";
import { MessagePicture } from "../channels/MessagePicture";
import { ChannelFields } from "./ChannelFields";
import { HashtagFields } from "./HashtagFields";
import { Line, Words } from "./Line";
import type { Preview, RuleBody, Rules } from "./rules";
import { Wordings } from "./Wordings";

type Props = {
  site: string;
  id: number;
  rule: RuleBody;
  channels: Rules["channels"];
  placeholders: string[];
  /** Posts whose messages are shown while one writes: those that would go out next. */
  samples: Preview["posts"];
  problem: (field: string) => string | undefined;
  set: (change: Partial<RuleBody>) => void;
};

/** Where messages go, and what they say; the next post's message stands beside as one writes. */
export function MessageFields({ site, id, rule, channels, placeholders, samples, problem, set }: Props) {
  const wordings = rule.wordings ?? [];
  const [looked, setLooked] = useState<string>();
  const chosen = rule.channels ?? [];
  const own = rule.byChannel ?? [];
  const sample = samples[0];
  const ofChannel = (channelId: number) => own.find((o) => o.channelId === channelId)?.wordings ?? [];
  const setOwn = (channelId: number, texts: string[]) =>
    set({
      byChannel: [
        ...own.filter((o) => o.channelId !== channelId),
        ...(texts.length > 0 ? [{ channelId, wordings: texts }] : []),
      ],
    });
  return (
    <>
      <ChannelFields rule={rule} channels={channels} problem={problem} set={set} />
      <Line
        name="Wordings"
        hint={`They take turns. Placeholders: ${placeholders.map((p) => `{${p}}`).join(" ")} {field:NAME} {one-of:LIST}`}
      >
        <Wordings
          name="Wording"
          texts={wordings}
          problem={(i) => problem(`wordings[${i}]`)}
          onChange={(next) => set({ wordings: next })}
          onLook={setLooked}
        />
        {problem("wordings") && <Words>{problem("wordings")}</Words>}
        {chosen.length > 1 && (
          <div className="w-full">
            <Fold
              title="Other wordings for one channel"
              summary="Used there in place of those above."
              open={own.length > 0}
            >
              <div className="space-y-3">
                {channels
                  .filter((c) => chosen.includes(c.id))
                  .map((c) => (
                    <div key={c.id}>
                      <p className="mb-1 text-sm font-semibold">{c.name}</p>
                      <Wordings
                        name={`Wording for ${c.name}`}
                        texts={ofChannel(c.id)}
                        problem={(i) => problem(`byChannel.${c.id}[${i}]`)}
                        onChange={(texts) => setOwn(c.id, texts)}
                        onLook={setLooked}
                      />
                    </div>
                  ))}
              </div>
            </Fold>
          </div>
        )}
      </Line>
      {sample && (
        <Line name="Preview" hint={`With “${sample.title}”, which would go out next.`}>
          <div className="w-full">
            <SideBySide
              site={site}
              draft={{
                postId: sample.id,
                text: looked ?? wordings[0] ?? "",
                channels: chosen,
                hashtags: rule.hashtags ?? {},
                params: rule.params ?? [],
                short: rule.short ?? false,
                picture: rule.picture ?? {},
                ruleId: id,
              }}
            />
          </div>
        </Line>
      )}
      <Line name="Picture">
        <MessagePicture site={site} value={rule.picture ?? {}} onChange={(picture) => set({ picture })} />
        {problem("picture") && <Words>{problem("picture")}</Words>}
      </Line>
      <Line name="Reply">
        <div className="w-full">
          <ReplyFields
            text={rule.replyText ?? ""}
            after={rule.replyAfter ?? 5}
            error={problem}
            onChange={(replyText, replyAfter) => set({ replyText, replyAfter })}
          />
        </div>
      </Line>
      <HashtagFields rule={rule} problem={problem} set={set} />
      <Line name="Links">
        <span className="pt-1.5">
          <Tick
            label="Short links, which count clicks"
            on={rule.short ?? false}
            onChange={(short) => set({ short })}
          />
        </span>
        <ParamsField
          params={rule.params ?? []}
          error={problem("params")}
          onChange={(params) => set({ params })}
        />
      </Line>
    </>
  );
}
