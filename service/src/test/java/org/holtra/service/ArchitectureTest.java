package org.holtra.service;

import static com.tngtech.archunit.lang.syntax.ArchRuleDefinition.noClasses;
import static com.tngtech.archunit.library.Architectures.layeredArchitecture;
import static com.tngtech.archunit.library.dependencies.SlicesRuleDefinition.slices;

import com.tngtech.archunit.core.domain.JavaClasses;
import com.tngtech.archunit.core.importer.ClassFileImporter;
import com.tngtech.archunit.core.importer.ImportOption;
import java.time.Instant;
import java.util.List;
import org.junit.jupiter.api.Test;

/** Dependencies point one way: api and kinds to intake and dispatch, those to the journal, and all to the core. */
class ArchitectureTest {

    private static final JavaClasses CLASSES = new ClassFileImporter()
            .withImportOption(ImportOption.Predefined.DO_NOT_INCLUDE_TESTS)
            .importPackages("org.holtra");

    @Test
    void dependenciesPointOneWay() {
        layeredArchitecture()
                .consideringOnlyDependenciesInLayers()
                .layer("core")
                .definedBy("org.holtra.core..")
                .layer("settings")
                .definedBy("org.holtra.service.settings..")
                .layer("database")
                .definedBy("org.holtra.service.database..")
                .layer("cluster")
                .definedBy("org.holtra.service.cluster..")
                .layer("journal")
                .definedBy("org.holtra.service.journal..")
                .layer("history")
                .definedBy("org.holtra.service.history..")
                .layer("balance")
                .definedBy("org.holtra.service.balance..")
                .layer("retention")
                .definedBy("org.holtra.service.retention..")
                .layer("connections")
                .definedBy("org.holtra.service.connections..")
                .layer("spool")
                .definedBy("org.holtra.service.spool..")
                .layer("registries")
                .definedBy(
                        "org.holtra.service.devices..",
                        "org.holtra.service.credentials..",
                        "org.holtra.service.setups..")
                .layer("web")
                .definedBy("org.holtra.service.web..")
                .layer("access")
                .definedBy("org.holtra.service.access..")
                .layer("dispatch")
                .definedBy("org.holtra.service.dispatch..")
                .layer("intake")
                .definedBy("org.holtra.service.intake..")
                .layer("jobs")
                .definedBy("org.holtra.service.jobs..")
                .layer("incidents")
                .definedBy("org.holtra.service.incidents..")
                .layer("lookouts")
                .definedBy("org.holtra.service.lookouts..")
                .layer("memory")
                .definedBy("org.holtra.service.memory..")
                .layer("health")
                .definedBy("org.holtra.service.health..")
                .layer("kinds")
                .definedBy("org.holtra.service.kinds..")
                .layer("api")
                .definedBy("org.holtra.service.api..")
                .layer("lifecycle")
                .definedBy("org.holtra.service.lifecycle..")
                .whereLayer("web")
                .mayOnlyBeAccessedByLayers("access", "api", "kinds")
                .whereLayer("lifecycle")
                .mayNotBeAccessedByAnyLayer()
                .whereLayer("api")
                .mayNotBeAccessedByAnyLayer()
                .whereLayer("kinds")
                .mayNotBeAccessedByAnyLayer()
                .whereLayer("health")
                .mayOnlyBeAccessedByLayers("api", "lifecycle")
                .whereLayer("incidents")
                .mayOnlyBeAccessedByLayers("api")
                .whereLayer("memory")
                .mayOnlyBeAccessedByLayers("lifecycle")
                .whereLayer("lookouts")
                .mayOnlyBeAccessedByLayers("api", "memory", "lifecycle")
                .whereLayer("jobs")
                .mayOnlyBeAccessedByLayers("api", "incidents", "lifecycle")
                .whereLayer("intake")
                .mayOnlyBeAccessedByLayers("api", "kinds", "incidents", "memory", "health", "lifecycle")
                .whereLayer("dispatch")
                .mayOnlyBeAccessedByLayers("api", "kinds", "intake", "memory", "jobs", "health", "lifecycle")
                .whereLayer("spool")
                .mayOnlyBeAccessedByLayers("api", "intake", "health", "lifecycle")
                .whereLayer("registries")
                .mayOnlyBeAccessedByLayers(
                        "api",
                        "kinds",
                        "intake",
                        "dispatch",
                        "lookouts",
                        "incidents",
                        "memory",
                        "jobs",
                        "health",
                        "lifecycle")
                .whereLayer("connections")
                .mayOnlyBeAccessedByLayers("api", "kinds", "intake", "dispatch", "lifecycle")
                .whereLayer("retention")
                .mayOnlyBeAccessedByLayers("api", "lifecycle")
                .whereLayer("balance")
                .mayOnlyBeAccessedByLayers("api", "intake", "dispatch", "spool", "health", "retention", "lifecycle")
                .whereLayer("history")
                .mayOnlyBeAccessedByLayers(
                        "api", "intake", "jobs", "incidents", "health", "lifecycle", "memory", "lookouts", "registries")
                .whereLayer("journal")
                .mayOnlyBeAccessedByLayers(
                        "history",
                        "balance",
                        "retention",
                        "api",
                        "access",
                        "kinds",
                        "intake",
                        "dispatch",
                        "registries",
                        "spool",
                        "lookouts",
                        "incidents",
                        "memory",
                        "jobs",
                        "health",
                        "lifecycle")
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
        for (String kind : List.of("file", "http")) {
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
                        "org.holtra.service.api..", "org.holtra.service.intake..", "org.holtra.service.kinds..")
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
