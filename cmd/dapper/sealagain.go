package main

import (
	"context"
	"fmt"
	"io"

	"dapper.example/internal/channels"
)

type sealAgainCmd struct {
	database
	outside
}

// Run seals the tokens of all channels and the secrets of webhooks with the key that seals now.
func (c sealAgainCmd) Run(ctx context.Context, out io.Writer) error {
	s, err := c.open(ctx)
	if err != nil {
		return err
	}
	defer s.Close()
	if err := s.Current(ctx); err != nil {
		return err
	}
	box, err := c.box()
	if err != nil {
		return err
	}
	n, err := channels.SealAgain(ctx, s, box)
	if err != nil {
		return err
	}
	_, err = fmt.Fprintf(out, "%d channels and webhooks were sealed again. Keys behind the first are needed no more.\n", n)
	return err
}
