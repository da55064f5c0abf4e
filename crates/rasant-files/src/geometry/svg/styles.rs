//! The styles of a drawing: presentation attributes, style sheets and `style`.

use std::collections::HashMap;

use roxmltree::{Document, Node, NodeId};
use simplecss::{AttributeOperator, DeclarationTokenizer, PseudoClass, StyleSheet};

/// The maximum number of pairs of a rule and an element. A drawing with more is read without its
/// style sheets.
const MOST_MATCHES: usize = 20_000_000;

/// The declarations of the style sheets of a drawing, for each element that they match.
#[derive(Default)]
pub(super) struct Styles<'a> {
    /// In the order of precedence: the last one counts.
    of_sheets: HashMap<NodeId, Vec<(&'a str, &'a str)>>,
}

impl<'a> Styles<'a> {
    /// Reads the style sheets of a document. What cannot be parsed is skipped, as in browsers.
    pub fn read(document: &'a Document<'a>) -> Self {
        let mut sheet = StyleSheet::new();
        for style in document.descendants().filter(|node| node.tag_name().name() == "style") {
            let is_css = style.attribute("type").is_none_or(|kind| kind.is_empty() || kind == "text/css");
            if let Some(text) = style.text().filter(|_| is_css) {
                sheet.parse_more(text);
            }
        }
        let mut of_sheets: HashMap<NodeId, Vec<(&str, &str)>> = HashMap::new();
        if sheet.rules.is_empty() {
            return Self { of_sheets };
        }
        let elements = document.descendants().filter(Node::is_element).count();
        if sheet.rules.len().saturating_mul(elements) > MOST_MATCHES {
            return Self { of_sheets };
        }
        for node in document.descendants().filter(Node::is_element) {
            // Sorted by specificity.
            let matching = sheet.rules.iter().filter(|rule| rule.selector.matches(&Element(node)));
            let declarations = matching.flat_map(|rule| &rule.declarations);
            let all: Vec<_> = declarations.map(|declaration| (declaration.name, declaration.value)).collect();
            if !all.is_empty() {
                of_sheets.insert(node.id(), all);
            }
        }
        Self { of_sheets }
    }

    /// A property of an element itself: from its `style`, or else the style sheets, or else its
    /// attribute.
    pub fn get(&self, node: Node<'a, 'a>, name: &str) -> Option<&'a str> {
        let own = DeclarationTokenizer::from(node.attribute("style").unwrap_or(""));
        if let Some(declaration) = own.filter(|declaration| declaration.name == name).last() {
            return Some(declaration.value);
        }
        let mut of_sheets = self.of_sheets.get(&node.id()).into_iter().flatten();
        let of_sheets = of_sheets.rfind(|(known, _)| *known == name).map(|(_, value)| *value);
        of_sheets.or_else(|| node.attribute(name))
    }

    /// A property of an element or, if it has none, of its parents.
    pub fn inherited(&self, node: Node<'a, 'a>, name: &str) -> Option<&'a str> {
        node.ancestors().find_map(|node| self.get(node, name).filter(|value| *value != "inherit"))
    }
}

/// An element, as selectors see it.
struct Element<'a>(Node<'a, 'a>);

impl simplecss::Element for Element<'_> {
    fn parent_element(&self) -> Option<Self> {
        self.0.parent_element().map(Element)
    }

    fn prev_sibling_element(&self) -> Option<Self> {
        self.0.prev_sibling_element().map(Element)
    }

    fn has_local_name(&self, name: &str) -> bool {
        self.0.tag_name().name() == name
    }

    fn attribute_matches(&self, name: &str, operator: AttributeOperator<'_>) -> bool {
        self.0.attribute(name).is_some_and(|value| operator.matches(value))
    }

    fn pseudo_class_matches(&self, class: PseudoClass<'_>) -> bool {
        class == PseudoClass::FirstChild && self.prev_sibling_element().is_none()
    }
}
