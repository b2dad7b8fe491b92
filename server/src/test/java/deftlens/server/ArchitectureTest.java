package deftlens.server;

import static com.tngtech.archunit.lang.syntax.ArchRuleDefinition.classes;
import static com.tngtech.archunit.lang.syntax.ArchRuleDefinition.noClasses;
import static com.tngtech.archunit.library.dependencies.SlicesRuleDefinition.slices;

import com.tngtech.archunit.core.importer.ImportOption;
import com.tngtech.archunit.junit.AnalyzeClasses;
import com.tngtech.archunit.junit.ArchTest;
import com.tngtech.archunit.lang.ArchRule;

@AnalyzeClasses(packages = "deftlens", importOptions = ImportOption.DoNotIncludeTests.class)
class ArchitectureTest {

    @ArchTest
    static final ArchRule coreKnowsNobody = noClasses()
            .that()
            .resideInAPackage("deftlens.core..")
            .should()
            .dependOnClassesThat()
            .resideInAnyPackage("deftlens.server..", "deftlens.demo..", "org.springframework..", "org.hibernate..");

    @ArchTest
    static final ArchRule serverKnowsNoDemo = noClasses()
            .that()
            .resideInAPackage("deftlens.server..")
            .should()
            .dependOnClassesThat()
            .resideInAPackage("deftlens.demo..");

    @ArchTest
    static final ArchRule featuresHaveNoCircles =
            slices().matching("deftlens.server.(*)..").should().beFreeOfCycles();

    @ArchTest
    static final ArchRule storesStayAtHome =
            classes().that().haveSimpleNameEndingWith("Store").should().bePackagePrivate();

    @ArchTest
    static final ArchRule recordsAreReadInOnePlace = noClasses()
            .that()
            .resideOutsideOfPackages("deftlens.server.rows..", "deftlens.server.question..", "deftlens.core..")
            .should()
            .dependOnClassesThat()
            .haveFullyQualifiedName("deftlens.core.sql.Where");

    @ArchTest
    static final ArchRule theClockIsInjected = noClasses()
            .that()
            .resideInAPackage("deftlens.server..")
            .should()
            .callMethod(java.time.Instant.class, "now")
            .orShould()
            .callMethod(java.time.LocalDate.class, "now")
            .orShould()
            .callMethod(java.time.ZoneId.class, "systemDefault");
}
