import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Link from '@mui/material/Link';
import Typography from '@mui/material/Typography';
import { useState } from 'react';
import type { CarriedChannels, Spec } from '@shale/core';
import type { ListedSource } from '@shale/contract';
import { SourcePicker } from '../../pieces/SourcePicker.tsx';
import { Text } from '../../pieces/slimFields.tsx';

interface Props {
  source: ListedSource;
  spec: Spec;
  change: (spec: Spec) => void;
}

/** What stands before the number of a name, for a layer out of it. */
const layerOf = (name: string): string => name.replace(/[._-]?#+.*$/, '').replace(/[^\w-]+/g, '_');

/** All channels of a source; of another one as a layer of its name, where they have none of their own. */
const channelsOf = ({ facts, root, folder, name }: ListedSource, joined: boolean): CarriedChannels =>
  (facts?.stored ?? []).map((from) => ({
    as: joined && !from.includes('.') ? `${layerOf(name)}.${from}` : from,
    from,
    of: joined ? { root, folder, name } : null,
  }));

/** Channels of an OpenEXR file one by one: carried over as they are, under names of their own, with those of other sequences. */
export function ChannelsEditor({ source, spec, change }: Props) {
  const { channels } = spec;
  const [adding, setAdding] = useState(false);
  const set = (next: CarriedChannels) => change({ ...spec, channels: next });
  if (channels.length === 0)
    return (
      <Box>
        <Typography sx={{ fontSize: 12.5, color: 'text.secondary', mb: 0.75 }}>
          The picture is written, other channels are left out.
        </Typography>
        <Button variant="outlined" size="small" onClick={() => set(channelsOf(source, false))}>
          Choose channels one by one
        </Button>
      </Box>
    );
  const names = channels.map(({ as }) => as);
  return (
    <Box sx={{ display: 'grid', gap: 1.25 }}>
      <Typography sx={{ fontSize: 12.5, color: 'text.secondary' }}>
        Each channel is copied unchanged, under the name on the right.
      </Typography>
      <Box
        component="ul"
        aria-label="Channels"
        sx={{ listStyle: 'none', m: 0, p: 0, maxHeight: 300, overflowY: 'auto', display: 'grid', gap: 1, pt: 0.75 }}
      >
        {channels.map(({ as, from, of }, at) => (
          <Box
            component="li"
            key={at}
            sx={{
              display: 'grid',
              gridTemplateColumns: 'minmax(0, 1fr) minmax(0, 1fr) auto',
              gap: 1,
              alignItems: 'center',
            }}
          >
            <Box sx={{ minWidth: 0 }}>
              <Typography className="mono" noWrap sx={{ fontSize: 13 }} title={from}>
                {from}
              </Typography>
              {of && (
                <Typography noWrap sx={{ fontSize: 12, color: 'text.secondary' }} title={of.name}>
                  {of.name}
                </Typography>
              )}
            </Box>
            <Text
              label={`${from} as`}
              mono
              value={as}
              error={as === '' || names.indexOf(as) !== at}
              onSay={(text) =>
                text !== '' && set(channels.map((one, place) => (place === at ? { ...one, as: text } : one)))
              }
            />
            <Link
              component="button"
              aria-label={`Leave ${from} out`}
              onClick={() => set(channels.filter((_, place) => place !== at))}
              sx={{ fontSize: 13, fontFamily: 'inherit' }}
            >
              Leave out
            </Link>
          </Box>
        ))}
      </Box>
      {adding ? (
        <SourcePicker
          label="An OpenEXR sequence"
          value={null}
          takes={({ facts }) => facts?.format === 'exr'}
          onSay={(_, listed) => {
            setAdding(false);
            set([...channels, ...channelsOf(listed, true)]);
          }}
        />
      ) : (
        <Box sx={{ display: 'flex', gap: 1, flexWrap: 'wrap' }}>
          <Button variant="outlined" size="small" onClick={() => setAdding(true)}>
            Add another sequence
          </Button>
          <Button size="small" onClick={() => set([])}>
            Write the picture
          </Button>
        </Box>
      )}
    </Box>
  );
}
