//! Tables, as the migrations make them.

diesel::table! {
    media (hash) {
        hash -> Text,
        name -> Text,
        bytes -> BigInt,
        added_at -> Timestamptz,
    }
}

diesel::table! {
    shots (id) {
        id -> Uuid,
        name -> Text,
        head -> Integer,
        created_at -> Timestamptz,
        changed_at -> Timestamptz,
        put_away -> Bool,
        deleted_at -> Nullable<Timestamptz>,
    }
}

diesel::table! {
    revisions (shot_id, number) {
        shot_id -> Uuid,
        number -> Integer,
        parent -> Nullable<Integer>,
        label -> Text,
        document -> Jsonb,
        made_at -> Timestamptz,
        delivered -> Bool,
        name -> Nullable<Text>,
    }
}

diesel::table! {
    frame_lists (hash) {
        hash -> Text,
        frames -> Jsonb,
    }
}

diesel::table! {
    deliveries (folder) {
        folder -> Text,
        shot_id -> Uuid,
    }
}

diesel::table! {
    delivered (folder, name) {
        folder -> Text,
        name -> Text,
        bytes -> BigInt,
        modified -> Timestamptz,
        refused -> Nullable<Text>,
        noted_at -> Timestamptz,
    }
}

diesel::table! {
    presets (id) {
        id -> Uuid,
        name -> Text,
        preset -> Jsonb,
        picture -> Nullable<Bytea>,
        made_at -> Timestamptz,
    }
}

diesel::table! {
    rendered (content) {
        content -> Text,
        media -> Text,
        bytes -> BigInt,
        picture -> Nullable<Bytea>,
    }
}

diesel::table! {
    jobs (id) {
        id -> Uuid,
        shot_id -> Uuid,
        revision -> Integer,
        wish -> Jsonb,
        first -> Integer,
        last -> Integer,
        state -> Text,
        priority -> Integer,
        made_at -> Timestamptz,
        ended_at -> Nullable<Timestamptz>,
    }
}

diesel::table! {
    job_frames (job_id, frame) {
        job_id -> Uuid,
        frame -> Integer,
        state -> Text,
        free_at -> Timestamptz,
        worker -> Nullable<Text>,
        attempts -> Integer,
        error -> Nullable<Text>,
        content -> Nullable<Text>,
        took_ms -> Nullable<BigInt>,
        put -> Bool,
    }
}

diesel::allow_tables_to_appear_in_same_query!(job_frames, rendered);
diesel::allow_tables_to_appear_in_same_query!(shots, revisions);
