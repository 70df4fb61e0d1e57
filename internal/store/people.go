package store

import (
	"context"
	"time"
)

// User is a person who can sign in.
type User struct {
	ID           int64     `db:"id"`
	Email        string    `db:"email"`
	Name         string    `db:"name"`
	PasswordHash string    `db:"password_hash"`
	CreatedAt    time.Time `db:"created_at"`
}

// InsertUser adds a person.
func (q Queries) InsertUser(ctx context.Context, u User) (User, error) {
	err := q.one(ctx, &u, `
		insert into users (email, name, password_hash, created_at) values ($1, $2, $3, $4)
		returning *`, u.Email, u.Name, u.PasswordHash, u.CreatedAt)
	return u, err
}

// UserByEmail finds a person by address, in any case of letters.
func (q Queries) UserByEmail(ctx context.Context, email string) (User, error) {
	var u User
	err := q.one(ctx, &u, `select * from users where lower(email) = lower($1)`, email)
	return u, err
}

// User finds a person by id.
func (q Queries) User(ctx context.Context, id int64) (User, error) {
	var u User
	err := q.one(ctx, &u, `select * from users where id = $1`, id)
	return u, err
}
