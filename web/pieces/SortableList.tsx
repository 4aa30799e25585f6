import {
  closestCenter,
  DndContext,
  KeyboardSensor,
  PointerSensor,
  useSensor,
  useSensors,
  type DragEndEvent,
} from '@dnd-kit/core';
import {
  arrayMove,
  SortableContext,
  sortableKeyboardCoordinates,
  useSortable,
  verticalListSortingStrategy,
} from '@dnd-kit/sortable';
import { CSS } from '@dnd-kit/utilities';
import DragIndicator from '@mui/icons-material/DragIndicator';
import Box from '@mui/material/Box';
import IconButton from '@mui/material/IconButton';
import type { ReactNode } from 'react';

interface RowProps {
  id: string;
  words: string;
  children: ReactNode;
}

function Row({ id, words, children }: RowProps) {
  const { attributes, listeners, setNodeRef, setActivatorNodeRef, transform, transition, isDragging } = useSortable({
    id,
  });
  return (
    <Box
      component="li"
      ref={setNodeRef}
      style={{ transform: CSS.Translate.toString(transform), transition }}
      sx={{
        display: 'grid',
        gridTemplateColumns: '22px minmax(0, 1fr)',
        position: 'relative',
        zIndex: isDragging ? 2 : undefined,
        bgcolor: 'background.paper',
        boxShadow: isDragging ? '0 4px 16px rgba(20,24,26,.22)' : undefined,
      }}
    >
      <IconButton
        ref={setActivatorNodeRef}
        {...attributes}
        {...listeners}
        aria-label={`Move: ${words}`}
        sx={{
          p: 0,
          width: 22,
          height: 30,
          borderRadius: '4px',
          cursor: 'grab',
          touchAction: 'none',
          color: 'text.secondary',
        }}
      >
        <DragIndicator sx={{ fontSize: 18 }} />
      </IconButton>
      <Box sx={{ minWidth: 0 }}>{children}</Box>
    </Box>
  );
}

interface Props<T> {
  label: string;
  items: readonly T[];
  idOf: (item: T, index: number) => string;
  /** What an item is called where it is moved. */
  wordsOf: (item: T) => string;
  onOrder: (items: T[]) => void;
  children: (item: T, index: number) => ReactNode;
}

/** A list whose order is a person's: by the pointer, or by keyboard (space, arrows, space). */
export function SortableList<T>({ label, items, idOf, wordsOf, onOrder, children }: Props<T>) {
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const ids = items.map(idOf);
  const drop = ({ active, over }: DragEndEvent) => {
    if (!over || active.id === over.id) return;
    onOrder(arrayMove([...items], ids.indexOf(String(active.id)), ids.indexOf(String(over.id))));
  };
  return (
    <DndContext sensors={sensors} collisionDetection={closestCenter} onDragEnd={drop}>
      <SortableContext items={ids} strategy={verticalListSortingStrategy}>
        <Box component="ul" aria-label={label} sx={{ listStyle: 'none', m: 0, p: 0 }}>
          {items.map((item, index) => (
            <Row key={ids[index]} id={ids[index]!} words={wordsOf(item)}>
              {children(item, index)}
            </Row>
          ))}
        </Box>
      </SortableContext>
    </DndContext>
  );
}
