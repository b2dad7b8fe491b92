package deftlens.server.organisation;

import org.springframework.data.jpa.repository.JpaRepository;

interface OrganisationStore extends JpaRepository<Organisation, Short> {
    Organisation getById(short id);
}
