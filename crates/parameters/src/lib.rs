//! `#[parameters]`: each parameter of a step, an extraction, a made element or a lamp is declared once.
//!
//! ```ignore
//! #[parameters]
//! pub struct Haze {
//!     /// How much of the light each unit of the way takes.
//!     #[param(label = "Density", default = 0.1, range = [0.0, 1e6], slider = [0.0, 1.0], step = 0.005, unit = "/unit")]
//!     pub density: f32,
//! }
//! ```
//!
//! From this follow the serde form (what is left out has its default), the JSON Schema with the `x-` notes that the deck
//! makes its controls of, the type of the web, `Default`, and `jugata_shot::params::Parameters`: a visit over typed slots
//! by which ranges are checked and addresses found.
//!
//! What `#[param(…)]` knows, all of it optional:
//!
//! | key | meaning |
//! |---|---|
//! | `label` | word for people |
//! | `default` | value of a new one; else that of its type |
//! | `range` | least and greatest possible value, of each component |
//! | `slider`, `step` | ends of the slider and the step of the field |
//! | `unit` | after the number |
//! | `group` | column of the deck |
//! | `means` | what a number is where that is more than a number: `colour`, `direction`, `depth` … |
//! | `when` | when it plays a part: `{"from": "own"}` |
//! | `item`, `most` | of a list: word for one of it, and how many there may be |
//!
//! `#[parameters(reads_itself)]` leaves reading from JSON to the type; `#[parameters(item)]` is for what stands in lists:
//! it has a field `id` that stays.

use proc_macro::TokenStream;
use proc_macro2::{TokenStream as Tokens, TokenTree};
use quote::quote;
use std::collections::BTreeMap;
use syn::{Data, DeriveInput, Error, Field, Type};

/// See the crate.
#[proc_macro_attribute]
pub fn parameters(options: TokenStream, item: TokenStream) -> TokenStream {
    let options = options.to_string();
    let made = syn::parse::<DeriveInput>(item).and_then(|input| declare(&options, input));
    made.unwrap_or_else(|e| e.to_compile_error()).into()
}

/// What `#[param(…)]` says of one field.
type Notes = BTreeMap<String, Tokens>;

fn declare(options: &str, mut input: DeriveInput) -> Result<Tokens, Error> {
    let name = input.ident.clone();
    let Data::Struct(body) = &mut input.data else {
        return Err(Error::new_spanned(&name, "parameters are the fields of a struct"));
    };
    let mut fields = Vec::new();
    for field in &mut body.fields {
        let notes = notes_of(field)?;
        field.attrs.extend(schema_of(&notes));
        if !options.contains("reads_itself") && is_list(&field.ty) {
            field.attrs.push(syn::parse_quote!(#[serde(deserialize_with = "crate::params::listed")]));
        }
        fields.push((field.clone(), notes));
    }
    let reads = if options.contains("reads_itself") {
        quote!()
    } else {
        quote!(#[derive(::serde::Deserialize)] #[serde(deny_unknown_fields, default)])
    };
    let identified = options.contains("item").then(|| {
        quote!(impl crate::params::Identified for #name {
            fn id(&self) -> u32 { self.id }
            fn set_id(&mut self, id: u32) { self.id = id; }
        })
    });
    let (default, parameters) = (default_of(&name, &fields), visit_of(&name, &fields));
    Ok(quote! {
        #[derive(Clone, Debug, PartialEq, ::serde::Serialize, ::schemars::JsonSchema, ::ts_rs::TS)]
        #reads
        #input
        #default
        #parameters
        #identified
    })
}

/// Takes the notes off a field.
fn notes_of(field: &mut Field) -> Result<Notes, Error> {
    let mut notes = Notes::new();
    for attribute in field.attrs.iter().filter(|a| a.path().is_ident("param")) {
        let all: Vec<TokenTree> = attribute.meta.require_list()?.tokens.clone().into_iter().collect();
        for note in all.split(|t| matches!(t, TokenTree::Punct(p) if p.as_char() == ',')) {
            match note {
                [] => {}
                [TokenTree::Ident(key), TokenTree::Punct(is), value @ ..]
                    if is.as_char() == '=' && KEYS.contains(&key.to_string().as_str()) =>
                {
                    notes.insert(key.to_string(), value.iter().cloned().collect());
                }
                [other, ..] => return Err(Error::new_spanned(other, "not a note that a parameter has")),
            }
        }
    }
    field.attrs.retain(|a| !a.path().is_ident("param"));
    Ok(notes)
}

const KEYS: [&str; 11] =
    ["label", "default", "range", "slider", "step", "unit", "group", "means", "when", "item", "most"];

/// The notes for controls, as the schema has them.
fn schema_of(notes: &Notes) -> Option<syn::Attribute> {
    let of = [
        ("x-label", "label"),
        ("x-meaning", "means"),
        ("x-unit", "unit"),
        ("x-slider", "slider"),
        ("x-step", "step"),
        ("x-group", "group"),
        ("x-when", "when"),
    ];
    let told: Vec<Tokens> =
        of.iter().filter_map(|(x, key)| notes.get(*key).map(|v| quote!(#x = #v))).collect();
    (!told.is_empty()).then(|| syn::parse_quote!(#[schemars(extend(#(#told),*))]))
}

fn default_of(name: &syn::Ident, fields: &[(Field, Notes)]) -> Tokens {
    let values = fields.iter().map(|(field, notes)| {
        let field = &field.ident;
        match notes.get("default") {
            Some(value) => quote!(#field: #value),
            None => quote!(#field: ::std::default::Default::default()),
        }
    });
    quote! {
        impl ::std::default::Default for #name {
            fn default() -> Self {
                Self { #(#values),* }
            }
        }
    }
}

/// Whether a type is a slot of its own; all others are choices of a few.
fn is_slot(ty: &Type) -> bool {
    match ty {
        Type::Array(_) => true,
        Type::Path(path) => path.path.segments.last().is_some_and(|last| {
            ["f32", "u32", "bool", "Option", "Vec", "String"].contains(&last.ident.to_string().as_str())
        }),
        _ => false,
    }
}

/// Whether a type is a list of things with numbers of their own.
fn is_list(ty: &Type) -> bool {
    let Type::Path(path) = ty else { return false };
    let Some(last) = path.path.segments.last().filter(|s| s.ident == "Vec") else { return false };
    let of = quote!(#last).to_string();
    !of.contains("u32") && !of.contains('[')
}

fn visit_of(name: &syn::Ident, fields: &[(Field, Notes)]) -> Tokens {
    let told = fields.iter().map(|(field, notes)| {
        let own = field.ident.as_ref().map(ToString::to_string).unwrap_or_default();
        let text = |key: &str, other: &str| notes.get(key).map_or(quote!(#other), |v| quote!(#v));
        let maybe = |key: &str| notes.get(key).map_or(quote!(None), |v| quote!(Some(#v)));
        let (label, unit) = (text("label", &own), text("unit", ""));
        let (item, means) = (text("item", "item"), text("means", ""));
        let (range, most) = (maybe("range"), maybe("most"));
        quote!(crate::params::Field {
            name: #own, label: #label, unit: #unit, range: #range, means: #means, item: #item, most: #most
        })
    });
    let seen = fields.iter().enumerate().map(|(place, (field, _))| {
        let ident = &field.ident;
        if is_slot(&field.ty) {
            quote!(see(&FIELDS[#place], crate::params::IsSlot::slot(&self.#ident));)
        } else {
            quote!(see(&FIELDS[#place], crate::params::Slot::Choice);)
        }
    });
    let changed = fields.iter().enumerate().map(|(place, (field, _))| {
        let ident = &field.ident;
        if is_slot(&field.ty) {
            quote!(see(&FIELDS[#place], crate::params::IsSlot::slot_mut(&mut self.#ident));)
        } else {
            quote!(see(&FIELDS[#place], crate::params::SlotMut::Choice);)
        }
    });
    quote! {
        const _: () = {
            static FIELDS: &[crate::params::Field] = &[#(#told),*];

            impl crate::params::Parameters for #name {
                fn fields(&self) -> &'static [crate::params::Field] {
                    FIELDS
                }
                fn each(&self, see: &mut dyn FnMut(&'static crate::params::Field, crate::params::Slot<'_>)) {
                    let _ = &see;
                    #(#seen)*
                }
                fn each_mut(
                    &mut self,
                    see: &mut dyn FnMut(&'static crate::params::Field, crate::params::SlotMut<'_>),
                ) {
                    let _ = &see;
                    #(#changed)*
                }
            }
        };
    }
}
