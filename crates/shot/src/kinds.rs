//! What kinds of step and kinds of extraction have in common: one list each, from which the serde enum, the dispatch
//! and the catalogue follow.

/// An enum of kinds, tagged by name in documents. `$any` is the object-safe form of their trait, `$tell` makes a
/// catalogue's entry of one.
macro_rules! kinds {
    ($(#[$about:meta])* $enum:ident is $any:ident, $tell:ident tells $info:ident;
     $($(#[$doc:meta])* $name:ident => $kind:literal),+ $(,)?) => {
        $(#[$about])*
        #[derive(Clone, Debug, PartialEq, serde::Serialize, serde::Deserialize, schemars::JsonSchema, ts_rs::TS)]
        #[serde(tag = "kind")]
        pub enum $enum {
            $($(#[$doc])* #[serde(rename = $kind)] $name($name)),+
        }

        impl $enum {
            /// Name in documents.
            pub fn name(&self) -> &'static str {
                match self { $(Self::$name(_) => $kind),+ }
            }
        }

        impl std::ops::Deref for $enum {
            type Target = dyn $any;

            fn deref(&self) -> &Self::Target {
                match self { $(Self::$name(k) => k),+ }
            }
        }

        /// Every kind, in the order in which a menu shows them.
        pub fn catalogue() -> Vec<$info> {
            vec![$($tell::<$name>($kind, $enum::$name($name::default()))),+]
        }
    };
}

pub(crate) use kinds;
