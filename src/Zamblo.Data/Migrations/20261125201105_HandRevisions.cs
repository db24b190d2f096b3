using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Zamblo.Data.Migrations
{
    /// <inheritdoc />
    public partial class HandRevisions : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<long>(
                name: "HandRevision",
                table: "Productions",
                type: "INTEGER",
                nullable: false,
                defaultValue: 0L);
            // Who made the last edit is not known: nothing made on an earlier one is taken.
            migrationBuilder.Sql("UPDATE Productions SET HandRevision = Revision;");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropColumn(
                name: "HandRevision",
                table: "Productions");
        }
    }
}
