import AddIcon from '@mui/icons-material/Add';
import ButtonBase from '@mui/material/ButtonBase';
import ListItemText from '@mui/material/ListItemText';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import { useState } from 'react';
import { startingPoints, type StartingPointName } from '@shale/core';
import { afterSentence } from '../../../sentence/after.ts';

/** Asks for another output of the same sources. */
export function AlsoWrite({ onWrite }: { onWrite: (name: StartingPointName) => void }) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  return (
    <>
      {' '}
      <ButtonBase aria-haspopup="menu" onClick={({ currentTarget }) => setAnchor(currentTarget)} sx={afterSentence}>
        <AddIcon sx={{ fontSize: 16 }} /> Also write
      </ButtonBase>
      <Menu open={anchor !== null} anchorEl={anchor} onClose={() => setAnchor(null)}>
        {Object.entries(startingPoints).map(([name, { words, note }]) => (
          <MenuItem
            key={name}
            onClick={() => {
              setAnchor(null);
              onWrite(name as StartingPointName);
            }}
          >
            <ListItemText primary={words} secondary={note} />
          </MenuItem>
        ))}
      </Menu>
    </>
  );
}
