//! What checks look at.

use super::finding::Finding;
use super::meaning::Meanings;
use super::overlap::Overlap;
use super::renames::Renames;
use super::text::{self, Text};
use super::walk::{self, Walk};
use crate::directive::families::Families;
use crate::directive::reading::lexicon::{Lexicon, OwnLists};
use crate::facts::Facts;
use crate::inspect::pattern_search::PatternSearch;
use crate::inspect::survey::Survey;
use crate::profile::Profile;
use crate::project::guidance::Date;
use crate::project::rule::Rule;
use crate::project::settled::Settled;
use crate::project::workspace::{Project, Workspace, WorkspaceError};
use crate::resolve::zones::RuleId;
use std::sync::OnceLock;

/// So many findings of one check are listed, spread over all files.
pub(super) const MOST_FINDINGS: usize = 5_000;
/// So many in one file at least, however many files there are.
const LEAST_OF_A_FILE: usize = 20;
/// So many in one file at most.
const MOST_OF_A_FILE: usize = 250;

/// What checks look at.
pub struct Context<'a, 't> {
    /// The project's settings and texts.
    pub workspace: &'a Workspace<'t>,
    /// Its files.
    pub project: &'a Project,
    /// Its rules and zones.
    pub survey: &'a Survey<'a>,
    /// What the repository states.
    pub facts: Facts<'a>,
    /// The families of choices.
    pub families: Families,
    /// The texts of all rules.
    pub texts: Vec<Text>,
    /// Where rules meet.
    pub overlap: Overlap,
    /// What patterns take.
    pub search: PatternSearch<'a>,
    /// Patterns that take no file: the rule, and the number of the pattern.
    pub(super) idle: OnceLock<Vec<(RuleId, usize)>>,
    /// Directives that cannot both be followed.
    pub(super) clashes: OnceLock<Vec<Finding>>,
    /// What somebody decided of pairs of directives.
    pub settled: Settled,
    /// What directives mean, held against each other.
    meanings: OnceLock<Meanings>,
    /// What each rule's references come to.
    walks: OnceLock<Vec<(RuleId, Walk)>>,
    /// What was renamed, where somebody knows.
    pub renames: Renames<'a>,
    /// Today, where that is known.
    pub today: Option<Date>,
}

impl<'a, 't> Context<'a, 't> {
    /// So many findings of one check in one file are listed: nobody reads more, and somebody may have made the files to
    /// fill our memory.
    pub(crate) fn most_findings(&self) -> usize {
        (MOST_FINDINGS / self.texts.len().max(1)).clamp(LEAST_OF_A_FILE, MOST_OF_A_FILE)
    }

    /// Reads all that checks look at. The survey is one [with guidance](crate::inspect::survey::with_guidance).
    ///
    /// # Errors
    /// `signpost.lock` is not valid.
    pub fn new(
        workspace: &'a Workspace<'t>,
        project: &'a Project,
        survey: &'a Survey<'a>,
        today: Option<Date>,
    ) -> Result<Self, WorkspaceError> {
        let families = Families::with(&workspace.config.families);
        let (lock, settled) = (workspace.lock()?, workspace.settled()?);
        let (facts, (texts, overlap)) = rayon::join(
            || Facts::read(workspace.tree(), &project.index),
            || rayon::join(|| text::read(survey, &families, &lock), || Overlap::new(survey)),
        );
        let search = PatternSearch::new(&project.index);
        let (idle, clashes, meanings, walks) = Default::default();
        Ok(Context {
            workspace,
            project,
            survey,
            facts,
            families,
            texts,
            overlap,
            search,
            idle,
            clashes,
            settled,
            meanings,
            walks,
            renames: Renames::default(),
            today,
        })
    }

    /// With what was renamed.
    #[must_use]
    pub fn with_renames(mut self, renames: Renames<'a>) -> Self {
        self.renames = renames;
        self
    }

    /// What the directives of all rules mean, held against each other.
    pub(super) fn meanings(&self) -> &Meanings {
        self.meanings.get_or_init(|| {
            let takes_part = |text: &Text| text.told.iter().any(|id| self.rule(*id).takes_part());
            let config = &self.workspace.config;
            if config.families.is_empty() && config.concepts.is_empty() {
                return Meanings::read(&self.texts, &takes_part, Lexicon::built_in(), &self.settled);
            }
            let concepts = config.concepts.values().map(|own| (&own.same[..], &own.opposite[..])).collect();
            let own = OwnLists { families: Some(&config.families), concepts };
            Meanings::read(&self.texts, &takes_part, &Lexicon::with(&own), &self.settled)
        })
    }

    /// The rule of a number.
    pub fn rule(&self, id: RuleId) -> &Rule {
        self.survey.rule(id)
    }

    /// The profile that reads it.
    pub fn profile(&self, id: RuleId) -> &'a Profile {
        self.survey.profile(id)
    }

    /// Every rule of the assistants that follow references, with the walk from it. Each is walked once.
    pub(super) fn walks(&self) -> impl Iterator<Item = (RuleId, &Walk)> {
        let all = self.walks.get_or_init(|| walk::walks(self.workspace, self.survey));
        all.iter().map(|(id, walk)| (*id, walk))
    }
}
