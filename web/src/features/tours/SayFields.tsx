import { Tick } from "../../ui/Tick";
import type { Channel } from "../channels/channels";
import { ValuesField } from "../rules/ValuesField";
import { Wordings } from "../rules/Wordings";
import { Pictures } from "./Pictures";
import type { Settings } from "./tours";

type Props = {
  site: string;
  /** Whether it is a tour of a post, and not of a page elsewhere. */
  ofPost: boolean;
  settings: Settings;
  channels: Channel[];
  problem: (path: string) => string | undefined;
  onChange: (change: Partial<Settings>) => void;
};

/** Where a tour goes, and what its messages say beside the lines. */
export function SayFields({ site, ofPost, settings, channels, problem, onChange }: Props) {
  return (
    <div className="space-y-3">
      <div>
        <p className="mb-1 text-sm text-soft">Channels</p>
        <div className="flex flex-wrap gap-x-4 gap-y-1.5">
          {channels.map((c) => (
            <Tick
              key={c.id}
              label={c.name}
              on={settings.channels.includes(c.id)}
              onChange={(on) =>
                onChange({
                  channels: channels
                    .map((one) => one.id)
                    .filter((id) => (id === c.id ? on : settings.channels.includes(id))),
                })
              }
            />
          ))}
        </div>
        {problem("channels") && (
          <p role="alert" className="mt-1 text-xs text-madder">
            {problem("channels")}
          </p>
        )}
      </div>
      <div>
        <p className="mb-1 text-sm text-soft">
          Wordings, which take turns. <code>{"{line}"}</code> is the stop’s line.
        </p>
        <Wordings
          name="Wording"
          texts={settings.wordings}
          problem={(i) => problem(`wordings[${i}]`) ?? (i === 0 ? problem("wordings") : undefined)}
          onChange={(wordings) => onChange({ wordings })}
          onLook={() => undefined}
        />
      </div>
      <div>
        <p className="mb-1 text-sm text-soft">
          Hashtags, for <code>{"{hashtags}"}</code>
        </p>
        <ValuesField
          label="Hashtags"
          values={settings.hashtags ?? []}
          known={[]}
          free
          onChange={(hashtags) => onChange({ hashtags })}
        />
      </div>
      <div>
        <p className="mb-1 text-sm text-soft">Mentions, one at the end of each message in turn</p>
        <ValuesField
          label="Mentions"
          values={settings.mentions ?? []}
          known={[]}
          free
          error={settings.mentions?.map((_, i) => problem(`mentions[${i}]`)).find(Boolean)}
          onChange={(mentions) => onChange({ mentions })}
        />
      </div>
      <Pictures site={site} settings={settings} problem={problem} onChange={onChange} />
      <Tick
        label="Short links, whose clicks are counted"
        on={settings.short ?? false}
        onChange={(short) => onChange({ short })}
      />
      {ofPost && (
        <Tick
          label="If the post is not out when a stop is due, keep that stop for me"
          on={settings.hold ?? false}
          onChange={(hold) => onChange({ hold })}
        />
      )}
    </div>
  );
}
