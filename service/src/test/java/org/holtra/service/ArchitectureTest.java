package org.holtra.service;

import static com.tngtech.archunit.lang.syntax.ArchRuleDefinition.noClasses;
import static com.tngtech.archunit.library.dependencies.SlicesRuleDefinition.slices;
import static org.assertj.core.api.Assertions.assertThat;

import com.tngtech.archunit.core.domain.Dependency;
import com.tngtech.archunit.core.domain.JavaClass;
import com.tngtech.archunit.core.domain.JavaClasses;
import com.tngtech.archunit.core.importer.ClassFileImporter;
import com.tngtech.archunit.core.importer.ImportOption;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.regex.Pattern;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;

/** Dependencies point one way: api and kinds to intake and dispatch, those to the journal, and all to the core. */
class ArchitectureTest {

    private static final JavaClasses CLASSES = new ClassFileImporter()
            .withImportOption(ImportOption.Predefined.DO_NOT_INCLUDE_TESTS)
            .importPackages("org.holtra");

    /** From the ground up: a package depends only on packages of layers below its own, and on the core. */
    private static final List<Set<String>> LAYERS = List.of(
            Set.of("settings", "database", "reach"),
            Set.of("tracing"),
            Set.of("cluster"),
            Set.of("journal", "connections", "credentials", "refusals", "web"),
            Set.of("introductions"),
            Set.of("history", "balance", "devices", "setups", "access", "tls"),
            Set.of("reading", "spool", "retention", "sharing", "tokens"),
            Set.of("dispatch"),
            Set.of("intake", "jobs", "httpclient"),
            Set.of("memory", "health", "incidents", "introducing", "metrics", "workbench", "brokers"),
            Set.of("lookouts"),
            Set.of("api", "kinds", "lifecycle"));

    private static final String SERVICE = "org.holtra.service.";

    @Test
    void aPackageDependsOnlyOnPackagesOfLayersBelowItsOwn() {
        List<String> upward = CLASSES.stream()
                .filter(one -> one.getPackageName().startsWith(SERVICE))
                .flatMap(one -> one.getDirectDependenciesFromSelf().stream())
                .filter(one -> one.getTargetClass().getPackageName().startsWith(SERVICE))
                .filter(one -> !folder(one.getOriginClass()).equals(folder(one.getTargetClass())))
                .filter(one -> layer(one.getTargetClass()) >= layer(one.getOriginClass()))
                .map(Dependency::getDescription)
                .toList();
        assertThat(upward).isEmpty();
    }

    private static int layer(JavaClass one) {
        for (int i = 0; i < LAYERS.size(); i++) {
            if (LAYERS.get(i).contains(folder(one))) {
                return i;
            }
        }
        throw new AssertionError(folder(one) + " is in no layer");
    }

    private static String folder(JavaClass one) {
        return one.getPackageName().substring(SERVICE.length()).split("\\.")[0];
    }

    private static final Pattern WRITES = Pattern.compile(
            "\\b(?:insert into|delete from|update) (?!set\\b)([a-z_]{3,})\\b *(?:\\(|set\\b|where|using|as\\b|select|[a-z]{1,2} |\\n|\"|$)");

    @Test
    void aTableIsWrittenByOnePackageAndEmptiedByRetention() throws IOException {
        Map<String, Set<String>> writers = new TreeMap<>();
        Path sources = Path.of("src/main/java", SERVICE.split("\\."));
        try (Stream<Path> files = Files.walk(sources)) {
            for (Path file :
                    files.filter(one -> one.toString().endsWith(".java")).toList()) {
                String folder = sources.relativize(file).getName(0).toString();
                WRITES.matcher(Files.readString(file))
                        .results()
                        .forEach(found -> writers.computeIfAbsent(found.group(1), table -> new TreeSet<>())
                                .add(folder));
            }
        }
        writers.values().forEach(folders -> folders.remove("retention"));
        assertThat(writers).containsKeys("message", "owed", "outcome", "attempt", "dead_letter", "device", "node");
        assertThat(writers)
                .allSatisfy((table, folders) -> assertThat(folders).as(table).hasSizeLessThan(2));
    }

    @Test
    void theCoreDependsOnNothingOfTheService() {
        noClasses()
                .that()
                .resideInAPackage("org.holtra.core..")
                .should()
                .dependOnClassesThat()
                .resideInAPackage("org.holtra.service..")
                .check(CLASSES);
    }

    @Test
    void theCoreKnowsNoFrameworkNoDatabaseNoSocketNoFileAndStartsNoThread() {
        noClasses()
                .that()
                .resideInAPackage("org.holtra.core..")
                .should()
                .dependOnClassesThat()
                .resideInAnyPackage(
                        "org.springframework..",
                        "org.apache.ibatis..",
                        "java.sql..",
                        "javax.sql..",
                        "java.net.http..",
                        "java.nio.file..")
                .orShould()
                .dependOnClassesThat()
                .haveFullyQualifiedName("java.lang.Thread")
                .orShould()
                .dependOnClassesThat()
                .haveFullyQualifiedName("java.net.Socket")
                .orShould()
                .dependOnClassesThat()
                .haveFullyQualifiedName("java.io.File")
                .check(CLASSES);
    }

    @Test
    void packagesOfCoreAndServiceDependOnEachOtherInOneDirection() {
        for (String packages : List.of("org.holtra.core.(**)", "org.holtra.service.(**)")) {
            slices().matching(packages).should().beFreeOfCycles().check(CLASSES);
        }
    }

    @Test
    void nothingOutsideAKindsFolderNamesTheKind() {
        for (String kind : List.of("file", "http", "mail", "mqtt", "sample", "sparkplug", "sql", "timeseries")) {
            String folder = "org.holtra.service.kinds." + kind + "..";
            noClasses()
                    .that()
                    .resideInAPackage("org.holtra..")
                    .and()
                    .resideOutsideOfPackage(folder)
                    .should()
                    .dependOnClassesThat()
                    .resideInAPackage(folder)
                    .check(CLASSES);
        }
    }

    @Test
    void onlyTheJournalAndTheRegistriesSpeakToTheDatabase() {
        noClasses()
                .that()
                .resideInAnyPackage(
                        "org.holtra.service.api..",
                        "org.holtra.service.intake..",
                        "org.holtra.service.kinds.file..",
                        "org.holtra.service.kinds.http..",
                        "org.holtra.service.kinds.mail..",
                        "org.holtra.service.kinds.mqtt..",
                        "org.holtra.service.kinds.sample..",
                        "org.holtra.service.kinds.sparkplug..",
                        "org.holtra.service.kinds.timeseries..")
                .should()
                .dependOnClassesThat()
                .resideInAnyPackage("org.apache.ibatis..", "java.sql..", "org.springframework.jdbc..")
                .check(CLASSES);
    }

    /** Nodes agree about the time by the database's clock; the machine's own may be wrong, or set meanwhile. */
    @Test
    void theMachinesClockIsReadInOnePlace() {
        noClasses()
                .that()
                .resideInAnyPackage("org.holtra.core..", "org.holtra.service..")
                .and()
                .doNotHaveFullyQualifiedName("org.holtra.service.lifecycle.CoreConfiguration")
                .should()
                .callMethod(Instant.class, "now")
                .orShould()
                .callMethod(System.class, "currentTimeMillis")
                .check(CLASSES);
    }
}
