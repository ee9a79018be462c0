use super::own_folder;
use crate::check::text::mention::is_denied;
use crate::check::{CheckInfo, Context, Finding, Text};
use crate::config::Severity;
use crate::directive::Modality;
use crate::directive::words::{Sep, Word, words};
use crate::facts::{Ecosystem, Facts, counts_for};

pub(in crate::check) const INFO: CheckInfo =
    CheckInfo::new("facts/absent-dependency", Severity::Warning, include_str!("absent_dependency.toml"));

use Ecosystem::{
    Cpp, Dart, DotNet as Net, Elixir as Ex, Go, JavaScript as Js, Jvm, Php, Python as Py, Ruby as Rb, Rust as Rs, Swift,
};

/// Packages by the words that people write. A word that means much else counts as code only.
const PACKAGES: &[(&str, Ecosystem, &[&str], bool)] = &[
    ("react", Js, &["react", "preact"], false),
    ("vue", Js, &["vue"], false),
    ("svelte", Js, &["svelte", "@sveltejs/kit"], false),
    ("angular", Js, &["@angular/core"], false),
    ("next.js", Js, &["next"], false),
    ("nextjs", Js, &["next"], false),
    ("express", Js, &["express"], true),
    ("fastify", Js, &["fastify"], false),
    ("koa", Js, &["koa"], true),
    ("nestjs", Js, &["@nestjs/core"], false),
    ("jest", Js, &["jest", "@jest/core", "react-scripts", "jest-cli"], true),
    ("vitest", Js, &["vitest"], false),
    ("mocha", Js, &["mocha"], true),
    ("jasmine", Js, &["jasmine"], true),
    ("cypress", Js, &["cypress"], true),
    ("puppeteer", Js, &["puppeteer", "puppeteer-core"], false),
    ("axios", Js, &["axios"], false),
    ("lodash", Js, &["lodash", "lodash-es", "lodash.debounce"], false),
    ("moment", Js, &["moment", "moment-timezone"], true),
    ("moment.js", Js, &["moment"], false),
    ("dayjs", Js, &["dayjs"], false),
    ("day.js", Js, &["dayjs"], false),
    ("date-fns", Js, &["date-fns"], false),
    ("luxon", Js, &["luxon"], false),
    ("redux", Js, &["redux", "@reduxjs/toolkit", "react-redux"], false),
    ("zustand", Js, &["zustand"], false),
    ("mobx", Js, &["mobx"], false),
    ("jotai", Js, &["jotai"], false),
    ("recoil", Js, &["recoil"], true),
    ("zod", Js, &["zod"], false),
    ("yup", Js, &["yup"], true),
    ("joi", Js, &["joi"], false),
    ("prisma", Js, &["prisma", "@prisma/client"], false),
    ("drizzle", Js, &["drizzle-orm"], true),
    ("typeorm", Js, &["typeorm"], false),
    ("sequelize", Js, &["sequelize"], false),
    ("knex", Js, &["knex"], false),
    ("mongoose", Js, &["mongoose"], true),
    ("tailwindcss", Js, &["tailwindcss"], false),
    ("styled-components", Js, &["styled-components"], false),
    ("webpack", Js, &["webpack"], false),
    ("vite", Js, &["vite", "vitest"], false),
    ("rollup", Js, &["rollup"], true),
    ("esbuild", Js, &["esbuild", "vite", "tsup"], false),
    ("eslint", Js, &["eslint"], false),
    ("prettier", Js, &["prettier"], true),
    ("storybook", Js, &["storybook", "@storybook/react"], false),
    ("msw", Js, &["msw"], false),
    ("rxjs", Js, &["rxjs"], false),
    ("jquery", Js, &["jquery"], false),
    ("graphql-request", Js, &["graphql-request"], false),
    ("enzyme", Js, &["enzyme"], true),
    ("formik", Js, &["formik"], false),
    ("underscore", Js, &["underscore"], true),
    ("ramda", Js, &["ramda"], false),
    ("winston", Js, &["winston"], true),
    ("pino", Js, &["pino"], true),
    ("bluebird", Js, &["bluebird"], true),
    ("sinon", Js, &["sinon"], false),
    ("chai", Js, &["chai"], true),
    ("playwright", Js, &["playwright", "@playwright/test"], true),
    ("django", Py, &["django"], false),
    ("flask", Py, &["flask"], true),
    ("fastapi", Py, &["fastapi"], false),
    ("pydantic", Py, &["pydantic", "fastapi"], false),
    ("sqlalchemy", Py, &["sqlalchemy", "sqlmodel"], false),
    ("requests", Py, &["requests"], true),
    ("httpx", Py, &["httpx"], false),
    ("aiohttp", Py, &["aiohttp"], false),
    ("pytest", Py, &["pytest"], false),
    ("numpy", Py, &["numpy", "scipy", "pandas"], false),
    ("pandas", Py, &["pandas"], false),
    ("polars", Py, &["polars"], false),
    ("scipy", Py, &["scipy"], false),
    ("matplotlib", Py, &["matplotlib", "seaborn"], false),
    ("black", Py, &["black"], true),
    ("ruff", Py, &["ruff"], true),
    ("mypy", Py, &["mypy"], false),
    ("pyright", Py, &["pyright"], false),
    ("celery", Py, &["celery"], true),
    ("click", Py, &["click", "typer"], true),
    ("typer", Py, &["typer"], true),
    ("alembic", Py, &["alembic"], true),
    ("structlog", Py, &["structlog"], false),
    ("loguru", Py, &["loguru"], false),
    ("hypothesis", Py, &["hypothesis"], true),
    ("tenacity", Py, &["tenacity"], true),
    ("marshmallow", Py, &["marshmallow"], true),
    ("isort", Py, &["isort", "ruff"], false),
    ("flake8", Py, &["flake8"], false),
    ("pylint", Py, &["pylint"], false),
    ("tensorflow", Py, &["tensorflow"], false),
    ("pytorch", Py, &["torch"], false),
    ("beautifulsoup", Py, &["beautifulsoup4"], false),
    ("arrow", Py, &["arrow"], true),
    ("pendulum", Py, &["pendulum"], true),
    ("serde", Rs, &["serde"], false),
    ("tokio", Rs, &["tokio"], false),
    ("anyhow", Rs, &["anyhow"], true),
    ("thiserror", Rs, &["thiserror"], false),
    ("clap", Rs, &["clap"], true),
    ("axum", Rs, &["axum"], false),
    ("actix-web", Rs, &["actix-web"], false),
    ("actix", Rs, &["actix", "actix-web"], false),
    ("sqlx", Rs, &["sqlx"], false),
    ("diesel", Rs, &["diesel"], true),
    ("sea-orm", Rs, &["sea-orm"], false),
    ("reqwest", Rs, &["reqwest"], false),
    ("hyper", Rs, &["hyper"], true),
    ("tracing", Rs, &["tracing"], true),
    ("log", Rs, &["log"], true),
    ("rayon", Rs, &["rayon"], true),
    ("proptest", Rs, &["proptest"], false),
    ("criterion", Rs, &["criterion"], true),
    ("insta", Rs, &["insta"], true),
    ("chrono", Rs, &["chrono"], true),
    ("uuid", Rs, &["uuid"], true),
    ("rand", Rs, &["rand"], true),
    ("itertools", Rs, &["itertools"], true),
    ("async-std", Rs, &["async-std"], false),
    ("tonic", Rs, &["tonic"], true),
    ("nom", Rs, &["nom"], true),
    ("once_cell", Rs, &["once_cell"], false),
    ("lazy_static", Rs, &["lazy_static"], false),
    ("eyre", Rs, &["eyre", "color-eyre"], false),
    ("color-eyre", Rs, &["color-eyre"], false),
    ("mockall", Rs, &["mockall"], false),
    ("rstest", Rs, &["rstest"], false),
    ("quickcheck", Rs, &["quickcheck"], false),
    ("env_logger", Rs, &["env_logger"], false),
    ("rocket", Rs, &["rocket"], true),
    ("structopt", Rs, &["structopt"], false),
    ("failure", Rs, &["failure"], true),
    ("slog", Rs, &["slog"], false),
    ("parking_lot", Rs, &["parking_lot"], false),
    ("crossbeam", Rs, &["crossbeam"], false),
    ("smol", Rs, &["smol"], true),
    ("regex", Rs, &["regex"], true),
    ("snafu", Rs, &["snafu"], true),
    ("nextest", Rs, &["nextest"], true),
    ("bs4", Py, &["beautifulsoup4"], false),
    ("yaml", Py, &["pyyaml", "ruamel.yaml"], true),
    ("dateutil", Py, &["python-dateutil"], false),
    ("pil", Py, &["pillow"], true),
    ("pillow", Py, &["pillow"], false),
    ("cv2", Py, &["opencv-python", "opencv-python-headless"], false),
    ("sklearn", Py, &["scikit-learn"], false),
    ("scikit-learn", Py, &["scikit-learn"], false),
    ("jwt", Py, &["pyjwt"], true),
    ("dotenv", Py, &["python-dotenv"], true),
    ("attrs", Py, &["attrs", "cattrs"], true),
    ("rich", Py, &["rich", "typer"], true),
    ("boto3", Py, &["boto3"], false),
    ("psycopg", Py, &["psycopg", "psycopg2", "psycopg2-binary"], false),
    ("lodash-es", Js, &["lodash-es", "lodash"], false),
    ("hono", Js, &["hono"], false),
    ("elysia", Js, &["elysia"], true),
    ("astro", Js, &["astro"], true),
    ("remix", Js, &["@remix-run/react"], true),
    ("solid-js", Js, &["solid-js"], false),
    ("swr", Js, &["swr"], false),
    ("trpc", Js, &["@trpc/server", "@trpc/client"], false),
    ("immer", Js, &["immer"], true),
    ("nock", Js, &["nock"], true),
    ("supertest", Js, &["supertest"], false),
    ("junit", Jvm, &["junit", "junit-jupiter", "junit-jupiter-api", "kotlin-test-junit5"], false),
    ("testng", Jvm, &["testng"], false),
    ("mockito", Jvm, &["mockito-core", "mockito-junit-jupiter", "mockito-kotlin"], false),
    ("mockk", Jvm, &["mockk"], false),
    ("kotest", Jvm, &["kotest-runner-junit5", "kotest-assertions-core"], false),
    ("assertj", Jvm, &["assertj-core"], false),
    ("lombok", Jvm, &["lombok"], false),
    ("jackson", Jvm, &["jackson-databind", "jackson-module-kotlin"], true),
    ("guava", Jvm, &["guava"], false),
    ("koin", Jvm, &["koin-core", "koin-android"], true),
    ("cats-core", Jvm, &["cats-core", "cats-core_3", "cats-core_2.13"], false),
    ("nunit", Net, &["NUnit"], false),
    ("xunit", Net, &["xunit", "xunit.v3"], false),
    ("mstest", Net, &["MSTest", "MSTest.TestFramework"], false),
    ("moq", Net, &["Moq"], false),
    ("nsubstitute", Net, &["NSubstitute"], false),
    ("automapper", Net, &["AutoMapper"], false),
    ("mediatr", Net, &["MediatR"], false),
    ("serilog", Net, &["Serilog", "Serilog.AspNetCore"], false),
    ("nlog", Net, &["NLog"], false),
    ("dapper", Net, &["Dapper"], true),
    ("fluentassertions", Net, &["FluentAssertions"], false),
    ("fluentvalidation", Net, &["FluentValidation"], false),
    ("newtonsoft.json", Net, &["Newtonsoft.Json"], false),
    ("rails", Rb, &["rails"], false),
    ("rspec", Rb, &["rspec", "rspec-rails", "rspec-core"], false),
    ("minitest", Rb, &["minitest", "minitest-rails"], false),
    ("rubocop", Rb, &["rubocop", "standard", "rubocop-rails"], false),
    ("sidekiq", Rb, &["sidekiq"], false),
    ("devise", Rb, &["devise"], true),
    ("capybara", Rb, &["capybara"], true),
    ("sinatra", Rb, &["sinatra"], true),
    ("puma", Rb, &["puma"], true),
    ("phpunit", Php, &["phpunit/phpunit"], false),
    ("pest", Php, &["pestphp/pest"], true),
    ("phpstan", Php, &["phpstan/phpstan", "nunomaduro/larastan"], false),
    ("psalm", Php, &["vimeo/psalm"], true),
    ("laravel", Php, &["laravel/framework"], false),
    ("guzzle", Php, &["guzzlehttp/guzzle"], false),
    ("riverpod", Dart, &["riverpod", "flutter_riverpod", "hooks_riverpod"], false),
    ("bloc", Dart, &["bloc", "flutter_bloc"], true),
    ("provider", Dart, &["provider"], true),
    ("go_router", Dart, &["go_router"], false),
    ("mocktail", Dart, &["mocktail"], false),
    ("freezed", Dart, &["freezed", "freezed_annotation"], true),
    ("dio", Dart, &["dio"], true),
    ("phoenix", Ex, &["phoenix"], true),
    ("ecto", Ex, &["ecto", "ecto_sql"], false),
    ("tesla", Ex, &["tesla"], true),
    ("oban", Ex, &["oban"], false),
    ("catch2", Cpp, &["catch2"], false),
    ("gtest", Cpp, &["gtest"], false),
    ("googletest", Cpp, &["gtest"], false),
    ("spdlog", Cpp, &["spdlog"], false),
    ("fmt", Cpp, &["fmt"], true),
    ("boost", Cpp, &["boost"], true),
    ("testify", Go, &["github.com/stretchr/testify"], true),
    ("cobra", Go, &["github.com/spf13/cobra"], true),
    ("gorm", Go, &["gorm.io/gorm"], false),
    ("zerolog", Go, &["github.com/rs/zerolog"], false),
    ("alamofire", Swift, &["Alamofire"], false),
];

/// Programs that are installed apart from the packages of a project.
const APART: &[&str] = &["black", "ruff", "mypy", "pyright", "flake8", "pylint", "isort", "nextest"];

/// Verbs with which a package is yet to come, or only spoken of.
const COMING: &[&str] = &[
    "add", "install", "introduce", "consider", "migrate", "evaluate", "try", "switch", "replace", "propose", "suggest",
    "adding", "installing", "introducing", "moving", "mention", "like", "similar", "compatible", "style", "inspired",
    "convert", "port",
];

pub(in crate::check) fn run(context: &Context<'_, '_>, text: &Text, findings: &mut Vec<Finding>) {
    let facts = &context.facts;
    if facts.manifests.is_empty() {
        return;
    }
    let here = own_folder(text);
    for (number, directive) in text.outline.directives.iter().enumerate() {
        let all = words(text.text(), directive.span.clone());
        if all.first().is_some_and(|word| word.is(&["if", "when", "whenever", "should"]))
            && all.iter().any(|word| word.is(&["need", "want", "think", "ask", "would"]))
        {
            continue;
        }
        let yet_to_come = std::cell::LazyCell::new(|| all.iter().any(|word| word.is(COMING)));
        for (at, word) in all.iter().enumerate() {
            let Some((ecosystem, packages)) = package(&all, at, word) else { continue };
            let manifests = || {
                let own = facts.manifests.iter().filter(|one| one.ecosystem == ecosystem);
                own.filter(|one| counts_for(&one.file, &here))
            };
            if manifests().count() == 0
                || manifests().any(|one| one.open)
                || packages.iter().any(|name| facts.has_package_near(ecosystem, name, Some(&here)))
                || ecosystem == Go && packages.iter().any(|name| inside_module(facts, name))
            {
                continue;
            }
            let modality = text.modality_at(number, word.span.start);
            let wanted = matches!(modality, Some(Modality::Require | Modality::Prefer))
                || modality == Some(Modality::State) && uses(&all, at);
            let coming = *yet_to_come || is_denied(text, word.span.start);
            if !wanted || coming {
                continue;
            }
            let file = manifests().next().map_or(String::new(), |one| one.file.to_string());
            let name = text.words(&word.span).trim_matches('`').to_owned();
            let count = manifests().count();
            let message = if count == 1 {
                format!("{file} names no package `{name}`")
            } else {
                format!("none of the {count} manifests names a package `{name}`")
            };
            findings
                .push(text.finding(&INFO, word.span.clone(), message).help("name the package that the project uses"));
        }
    }
}

/// `The kiosk uses x`, `x is used`, `tests run with x`.
fn uses(all: &[Word], at: usize) -> bool {
    all[..at].iter().any(|word| word.is(&["use", "uses", "using", "with", "via"]))
        || all[at..].iter().any(|word| word.is(&["used"]))
}

/// A package of the project's own module, or of one that it names.
fn inside_module(facts: &Facts<'_>, name: &str) -> bool {
    let within = |module: &str| name == module || name.strip_prefix(module).is_some_and(|rest| rest.starts_with('/'));
    let mut manifests = facts.manifests.iter().filter(|one| one.ecosystem == Go);
    manifests.any(|one| one.name.as_deref().is_some_and(within) || one.dependencies.keys().any(|own| within(own)))
}

/// Whose package a name is by its form: `group.of:artifact`, `:tesla`, `vendor/name`, `host.org/owner/name`.
fn by_form(name: &str) -> Option<Ecosystem> {
    let word =
        |part: &str| !part.is_empty() && part.chars().all(|c| c.is_alphanumeric() || matches!(c, '-' | '_' | '.'));
    if let Some(atom) = name.strip_prefix(':') {
        return (word(atom) && !atom.contains('.')).then_some(Ex);
    }
    let parts: Vec<&str> = name.split(':').collect();
    if let [group, artifact] = parts[..] {
        return (group.contains('.') && word(group) && word(artifact)).then_some(Jvm);
    }
    let parts: Vec<&str> = name.split('/').collect();
    match parts[..] {
        [host, _, _, ..] if host.contains('.') && !host.starts_with('.') && parts.iter().all(|part| word(part)) => {
            Some(Go)
        }
        _ => None,
    }
}

/// The packages that a word names; any of them will do.
fn package<'w>(all: &'w [Word], at: usize, word: &'w Word) -> Option<(Ecosystem, Vec<&'w str>)> {
    let plain = word.low.trim_end_matches("()").trim_end_matches('!');
    let next = all.get(at + 1).filter(|next| next.sep == Sep::None);
    if word.code
        && next.is_some_and(|next| next.is(&["crate"]))
        && !matches!(plain, "std" | "core" | "alloc" | "proc_macro" | "crate" | "test")
        && plain.chars().all(|c| c.is_alphanumeric() || matches!(c, '-' | '_'))
    {
        return Some((Ecosystem::Rust, vec![plain]));
    }
    if word.code
        && let Some(ecosystem) = by_form(plain)
    {
        return Some((ecosystem, vec![plain]));
    }
    let lower = plain.to_lowercase();
    let (_, ecosystem, packages, needs_code) = PACKAGES.iter().find(|(name, ..)| *name == lower)?;
    let marked = word.code
        || next.is_some_and(|next| next.is(&["library", "crate", "package", "tests", "framework"]))
        || word.capital && at > 0;
    if *needs_code && !marked || APART.contains(&lower.as_str()) || word.joined || next.is_some_and(|next| next.joined)
    {
        return None;
    }
    // A word of another language is another package: `log` in Go.
    Some((*ecosystem, packages.to_vec()))
}
