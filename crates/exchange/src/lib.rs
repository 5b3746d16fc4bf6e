//! Open formats in and out, with limits against hostile files.
