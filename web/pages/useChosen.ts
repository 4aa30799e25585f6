import { useEffect } from 'react';
import { useParams } from 'react-router';
import { useSourceQuery } from '../api/api.ts';
import { sourceChosen } from '../state/view.ts';
import { useAppDispatch } from '../state/store.ts';

/** The source that the address names; remembered, so that the other pages open it too. */
export function useChosen() {
  const { id } = useParams();
  const dispatch = useAppDispatch();
  useEffect(() => {
    if (id) dispatch(sourceChosen(id));
  }, [id, dispatch]);
  return { id, ...useSourceQuery(id ?? '', { skip: !id }) };
}
