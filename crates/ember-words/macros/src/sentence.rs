//! Templates and the values for them.

use proc_macro2::{Ident, Span, TokenStream, TokenTree};
use quote::quote;
use syn::parse::Parser;
use syn::{Error, LitStr, Result};

/// A template and the expressions for it, as they stand in the source.
pub struct Sentence {
    template: LitStr,
    /// Name ("" for a value that is told by its position) and expression.
    values: Vec<(String, TokenStream)>,
}

impl Sentence {
    /// Reads `"template", value, name = value`.
    pub fn read(tokens: TokenStream) -> Result<Self> {
        let mut parts = split_at_commas(tokens).into_iter();
        let first = parts.next().unwrap_or_default();
        let template: LitStr = syn::parse2(first)?;
        let values = parts.map(named).collect();
        Ok(Self { template, values })
    }

    /// Expressions as `change` makes them.
    pub fn map_values(mut self, change: impl Fn(TokenStream) -> TokenStream) -> Self {
        for (_, value) in &mut self.values {
            *value = change(value.clone());
        }
        self
    }

    /// The expression that makes the `Words`; `captured` says what a name in the template stands for that no value was given for.
    pub fn expression(mut self, captured: impl Fn(&str, Span) -> Result<TokenStream>) -> Result<TokenStream> {
        let template = self.template.clone();
        let mut by_position = 0;
        for name in placeholders(&template)? {
            if name.is_empty() {
                by_position += 1;
            } else if !self.values.iter().any(|(known, _)| *known == name) {
                let index = name.parse::<usize>().ok();
                let given = self.values.iter().filter(|(known, _)| known.is_empty()).count();
                if index.is_none_or(|index| index >= given) {
                    let value = captured(&name, template.span())?;
                    self.values.push((name, value));
                }
            }
        }
        let given = self.values.iter().filter(|(known, _)| known.is_empty()).count();
        if by_position > given {
            return Err(Error::new(template.span(), format!("{by_position} values are needed by position, {given} are given")));
        }
        // Values go by reference: what makes them is then compiled once, and not at each of a thousand sentences.
        let values = self.values.iter().map(|(name, value)| quote! { (#name, &(#value) as &dyn ::ember_words::ToValue) });
        Ok(quote! { ::ember_words::Words::of(#template, &[#(#values),*]) })
    }
}

/// `words!`: names in the template are variables in scope.
pub fn words(tokens: TokenStream) -> Result<TokenStream> {
    Sentence::read(tokens)?.expression(|name, span| {
        let ident = syn::parse_str::<Ident>(name).map_err(|_| Error::new(span, format!("there is no value for {{{name}}}")))?;
        let ident = Ident::new(&ident.to_string(), span);
        Ok(quote! { #ident })
    })
}

/// `text!`: nothing in braces.
pub fn text(tokens: TokenStream) -> Result<TokenStream> {
    let literal = (|input: syn::parse::ParseStream| {
        let literal: LitStr = input.parse()?;
        let _: Option<syn::Token![,]> = input.parse()?;
        Ok(literal)
    })
    .parse2(tokens)?;
    if placeholders(&literal)?.is_empty() {
        Ok(quote! { ::ember_words::Text(#literal) })
    } else {
        Err(Error::new(literal.span(), "a text has no values; use words!"))
    }
}

fn split_at_commas(tokens: TokenStream) -> Vec<TokenStream> {
    let mut parts: Vec<Vec<TokenTree>> = vec![Vec::new()];
    for token in tokens {
        match &token {
            TokenTree::Punct(punct) if punct.as_char() == ',' => parts.push(Vec::new()),
            _ => parts.last_mut().expect("there is always a part").push(token),
        }
    }
    parts.into_iter().filter(|part| !part.is_empty()).map(|part| part.into_iter().collect()).collect()
}

/// Name and expression of `name = expression`, or of an expression alone.
fn named(tokens: TokenStream) -> (String, TokenStream) {
    let all: Vec<TokenTree> = tokens.into_iter().collect();
    match all.as_slice() {
        [TokenTree::Ident(name), TokenTree::Punct(equals), rest @ ..]
            if equals.as_char() == '=' && !matches!(rest.first(), Some(TokenTree::Punct(next)) if next.as_char() == '=') =>
        {
            (name.to_string(), rest.iter().cloned().collect())
        }
        _ => (String::new(), all.into_iter().collect()),
    }
}

/// Names of the placeholders in order; "" where a value is told by position alone.
fn placeholders(template: &LitStr) -> Result<Vec<String>> {
    let text = template.value();
    let refused = |what: &str| Error::new(template.span(), what.to_string());
    let mut found = Vec::new();
    let mut rest = text.as_str();
    while let Some(at) = rest.find(['{', '}']) {
        let brace = &rest[at..=at];
        let after = &rest[at + 1..];
        if let Some(after) = after.strip_prefix(brace) {
            rest = after;
        } else if brace == "}" {
            return Err(refused("a brace is closed that was not opened"));
        } else {
            let end = after.find('}').ok_or_else(|| refused("a brace is not closed"))?;
            let (name, format) = after[..end].split_once(':').unwrap_or((&after[..end], ""));
            let decimals = format.strip_prefix('+').unwrap_or(format);
            if !(decimals.is_empty() || decimals.strip_prefix('.').is_some_and(|number| number.parse::<u8>().is_ok())) {
                return Err(refused("a value is said with \"+\" and \".2\" only"));
            }
            found.push(name.to_string());
            rest = &after[end + 1..];
        }
    }
    Ok(found)
}
