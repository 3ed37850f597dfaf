import BookmarkBorderIcon from '@mui/icons-material/BookmarkBorder';
import CloseIcon from '@mui/icons-material/Close';
import { Box, Button, Divider, IconButton, ListItemText, Menu, MenuItem } from '@mui/material';
import { useState, type ReactNode } from 'react';
import { useNavigate } from 'react-router';
import { viewPath, type Place } from '../ui/use-span.ts';
import { useAddBookmarkMutation, useBookmarksQuery, useDropBookmarkMutation } from './api.ts';

/**
 * Places that people return to.
 * @param here the place that is looked at, as the query of its address, and what it may be called
 */
export function Bookmarks({
  place,
  here,
}: {
  place: Place;
  here: { name: string; query: string };
}): ReactNode {
  const navigate = useNavigate();
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const channel = place.channel.id;
  const { data: bookmarks = [] } = useBookmarksQuery(channel);
  const [add] = useAddBookmarkMutation();
  const [drop] = useDropBookmarkMutation();
  const known = bookmarks.find((bookmark) => bookmark.place === here.query);
  return (
    <>
      <Button
        startIcon={<BookmarkBorderIcon />}
        aria-haspopup="menu"
        aria-expanded={anchor !== null}
        onClick={({ currentTarget }) => setAnchor(currentTarget)}
      >
        {bookmarks.length === 0 ? 'Bookmarks' : `Bookmarks (${bookmarks.length})`}
      </Button>
      <Menu anchorEl={anchor} open={anchor !== null} onClose={() => setAnchor(null)}>
        <MenuItem
          onClick={() => {
            if (known) void drop(known.id);
            else void add({ channel, name: here.name, place: here.query });
            setAnchor(null);
          }}
        >
          {known ? 'Take the mark off this place' : `Mark this place: ${here.name}`}
        </MenuItem>
        {bookmarks.length > 0 && <Divider />}
        {bookmarks.map((bookmark) => (
          <MenuItem
            key={bookmark.id}
            onClick={() => {
              setAnchor(null);
              void navigate(`${viewPath(place, 'library')}?${bookmark.place}`);
            }}
          >
            <ListItemText primary={<span className="path">{bookmark.name}</span>} />
            <Box component="span" sx={{ pl: 2 }}>
              <IconButton
                size="small"
                aria-label={`Take ${bookmark.name} off`}
                onClick={(event) => {
                  event.stopPropagation();
                  void drop(bookmark.id);
                }}
              >
                <CloseIcon fontSize="inherit" />
              </IconButton>
            </Box>
          </MenuItem>
        ))}
      </Menu>
    </>
  );
}
