//! What an enum or a struct says of itself.

use crate::sentence::Sentence;
use proc_macro2::{Group, Ident, Span, TokenStream, TokenTree};
use quote::{format_ident, quote};
use syn::{Attribute, Data, DeriveInput, Error, Fields, Result};

/// `#[derive(Said)]`.
pub fn said(tokens: TokenStream) -> Result<TokenStream> {
    let input: DeriveInput = syn::parse2(tokens)?;
    let name = &input.ident;
    let (generics, types, bounds) = input.generics.split_for_impl();
    let arms: Vec<TokenStream> = match &input.data {
        Data::Enum(data) => data
            .variants
            .iter()
            .map(|variant| {
                let ident = &variant.ident;
                arm(quote! { Self::#ident }, &variant.fields, &variant.attrs, ident.span())
            })
            .collect::<Result<_>>()?,
        Data::Struct(data) => vec![arm(quote! { Self }, &data.fields, &input.attrs, name.span())?],
        Data::Union(_) => return Err(Error::new(name.span(), "a union says nothing")),
    };
    Ok(quote! {
        impl #generics ::ember_words::Say for #name #types #bounds {
            #[allow(unused_variables)]
            fn words(&self) -> ::ember_words::Words {
                match self { #(#arms),* }
            }
        }
        impl #generics ::ember_words::ToValue for #name #types #bounds {
            fn to_value(&self) -> ::ember_words::Value {
                ::ember_words::Value::Words(::ember_words::Say::words(self))
            }
        }
        impl #generics ::std::fmt::Display for #name #types #bounds {
            fn fmt(&self, f: &mut ::std::fmt::Formatter<'_>) -> ::std::fmt::Result {
                ::std::fmt::Display::fmt(&::ember_words::Say::words(self), f)
            }
        }
    })
}

fn arm(path: TokenStream, fields: &Fields, attributes: &[Attribute], span: Span) -> Result<TokenStream> {
    let attribute =
        attributes.iter().find(|a| a.path().is_ident("said")).ok_or_else(|| Error::new(span, "what does it say? #[said(\"...\")]"))?;
    let bindings: Vec<Ident> =
        fields.iter().enumerate().map(|(index, field)| field.ident.clone().unwrap_or_else(|| format_ident!("_{index}"))).collect();
    let pattern = match fields {
        Fields::Named(_) => quote! { #path { #(#bindings),* } },
        Fields::Unnamed(_) => quote! { #path ( #(#bindings),* ) },
        Fields::Unit => path,
    };
    let tokens: TokenStream = attribute.parse_args()?;
    if tokens.to_string() == "transparent" {
        let only = bindings.first().ok_or_else(|| Error::new(span, "there is no field to leave it to"))?;
        return Ok(quote! { #pattern => ::ember_words::Say::words(#only) });
    }
    let words = Sentence::read(tokens)?.map_values(field_of).expression(|name, span| {
        let binding = name.parse::<usize>().map_or_else(|_| Ident::new(name, span), |index| format_ident!("_{index}"));
        // What is no field is a constant in scope.
        Ok(quote! { #binding })
    })?;
    Ok(quote! { #pattern => #words })
}

/// `.kind.word()` and `.0.len()` begin at a field, wherever an expression can begin.
fn field_of(value: TokenStream) -> TokenStream {
    let mut said = Vec::new();
    let mut tokens = value.into_iter();
    let mut begins = true;
    while let Some(token) = tokens.next() {
        match token {
            TokenTree::Punct(dot) if dot.as_char() == '.' && begins => {
                said.extend(tokens.next().map(|field| TokenTree::Ident(binding(&field))));
                begins = false;
            }
            TokenTree::Punct(punct) => {
                begins = punct.as_char() != '.';
                said.push(punct.into());
            }
            TokenTree::Group(group) => {
                said.push(Group::new(group.delimiter(), field_of(group.stream())).into());
                begins = false;
            }
            other => {
                said.push(other);
                begins = false;
            }
        }
    }
    said.into_iter().collect()
}

fn binding(field: &TokenTree) -> Ident {
    match field {
        TokenTree::Literal(index) => format_ident!("_{}", index.to_string()),
        other => Ident::new(&other.to_string(), other.span()),
    }
}
