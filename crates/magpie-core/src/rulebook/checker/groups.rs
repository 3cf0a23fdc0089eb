//! Groups: the kinds in each, and groups that contain themselves.

use super::super::diagnostic::Code;
use super::super::model::{KindId, KindSet, SetId};
use super::super::syntax::Name;
use super::Checker;
use crate::limits::MOST_MEMBERS;
use hashbrown::HashSet;
use petgraph::graph::{DiGraph, NodeIndex};

/// What a group names.
#[derive(Clone, Copy, Debug)]
enum Member {
    Kind(KindId),
    Group(usize),
    Unknown,
}

impl Checker<'_> {
    /// The kinds of every group: its own and those of the groups in it, which stand where they are named.
    pub(super) fn build_groups(&mut self) {
        let names = std::mem::take(&mut self.names.group_members);
        let members: Vec<Vec<Member>> = names.iter().map(|(_, all)| self.resolved(all)).collect();
        let circles = circles(&members);
        let mut circle_of = vec![0; members.len()];
        for (number, circle) in circles.iter().enumerate() {
            circle.iter().for_each(|group| circle_of[*group] = number);
        }
        let mut kinds: Vec<Vec<KindId>> = vec![Vec::new(); members.len()];
        let mut total = 0;
        for group in circles.into_iter().flatten() {
            let own = gathered(&members[group], &kinds);
            let before = total;
            total += own.len();
            if total <= MOST_MEMBERS {
                kinds[group] = own;
            } else if before <= MOST_MEMBERS {
                self.too_many(names[group].0.span, "kinds in groups", MOST_MEMBERS);
            }
        }
        for (group, (name, written)) in names.iter().enumerate() {
            for (member, written) in members[group].iter().zip(written) {
                match member {
                    Member::Unknown => self.unknown(written, "kind or group", true),
                    Member::Group(inner) if circle_of[*inner] == circle_of[group] => {
                        let message = format!("the group `{}` contains itself", name.text);
                        self.report(written.span, Code::WrongName, message);
                    }
                    Member::Group(_) | Member::Kind(_) => {}
                }
            }
            self.names.group_sets.push(SetId(self.names.sets.len() as u32));
            self.names.sets.push(KindSet::new(&name.text, std::mem::take(&mut kinds[group])));
        }
        self.names.group_members = names;
    }

    fn resolved(&self, members: &[Name]) -> Vec<Member> {
        let member = |name: &Name| match (self.names.kind_of.get(&name.text), self.names.groups.get(&name.text)) {
            (Some(kind), _) => Member::Kind(*kind),
            (None, Some(group)) => Member::Group(*group),
            (None, None) => Member::Unknown,
        };
        members.iter().map(member).collect()
    }
}

/// The kinds a group names, those of the groups in it among them.
fn gathered(members: &[Member], kinds: &[Vec<KindId>]) -> Vec<KindId> {
    let mut own = Vec::new();
    let mut seen: HashSet<KindId> = HashSet::new();
    for member in members {
        match member {
            Member::Kind(kind) => own.extend(seen.insert(*kind).then_some(*kind)),
            Member::Group(inner) => own.extend(kinds[*inner].iter().filter(|kind| seen.insert(**kind))),
            Member::Unknown => {}
        }
    }
    own
}

/// Groups that contain each other, together, each behind those it contains. A group in no circle is alone.
fn circles(members: &[Vec<Member>]) -> Vec<Vec<usize>> {
    let mut graph = DiGraph::<(), ()>::with_capacity(members.len(), members.len());
    let nodes: Vec<NodeIndex> = members.iter().map(|_| graph.add_node(())).collect();
    for (group, members) in members.iter().enumerate() {
        for member in members {
            if let Member::Group(inner) = member {
                graph.add_edge(nodes[group], nodes[*inner], ());
            }
        }
    }
    // Of the two common ways the one that does not recurse: groups may be chained by the thousands.
    let circles = petgraph::algo::kosaraju_scc(&graph);
    circles.into_iter().map(|circle| circle.into_iter().map(NodeIndex::index).collect()).collect()
}
