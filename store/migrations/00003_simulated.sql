-- +goose Up
-- A folder that was made for simulation says so for ever: a clock may be set or hurried in it, and it never takes a real place.
CREATE TABLE simulated (made TEXT NOT NULL) STRICT;
-- +goose StatementBegin
CREATE TRIGGER simulated_stays BEFORE DELETE ON simulated BEGIN SELECT RAISE(ABORT, 'a folder for simulation stays one'); END;
-- +goose StatementEnd
