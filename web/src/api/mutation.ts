import { useMutation as useLibraryMutation, type UseMutationOptions } from "@tanstack/react-query";
import { useCallback } from "react";

type Callbacks<Data, Failure> = {
  onSuccess?: (data: Data) => unknown;
  onError?: (error: Failure) => unknown;
  onSettled?: () => unknown;
};

/**
 * A mutation that tells whoever asked for it how it ended, wherever they are by then. The library's own `mutate` tells
 * nobody once the component that asked is gone; and what is done to a post often takes away the very panel it was done
 * from, so that its notice, with Undo, would be lost. A callback that goes to another screen asks `useStill` first.
 */
export function useMutation<Data = unknown, Failure = Error, Wish = void, Before = unknown>(
  options: UseMutationOptions<Data, Failure, Wish, Before>,
) {
  const mutation = useLibraryMutation(options);
  const { mutateAsync } = mutation;
  const mutate = useCallback(
    (wish: Wish, { onSuccess, onError, onSettled }: Callbacks<Data, Failure> = {}) => {
      void mutateAsync(wish)
        .then(
          (data) => void onSuccess?.(data),
          (error: unknown) => void onError?.(error as Failure), // it is in the mutation, too
        )
        .finally(() => void onSettled?.());
    },
    [mutateAsync],
  );
  return { ...mutation, mutate };
}
